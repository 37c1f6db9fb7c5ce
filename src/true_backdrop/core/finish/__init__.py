"""The finish: from a cut to a white square."""
