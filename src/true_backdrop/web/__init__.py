"""The web application: parse, ask the catalog or ask for a job, answer."""
