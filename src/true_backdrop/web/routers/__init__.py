"""Routes, one file for each noun."""
