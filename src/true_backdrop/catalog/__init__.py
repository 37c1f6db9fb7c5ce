"""What is known about shoots: rows in PostgreSQL, originals and results in the blob store."""
