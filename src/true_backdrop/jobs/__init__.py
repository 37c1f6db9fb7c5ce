"""Background work on the same PostgreSQL: what runs, with which retry, idempotent."""
