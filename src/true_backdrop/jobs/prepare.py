"""Prepare the database: `python -m true_backdrop.jobs.prepare`. Harmless to repeat."""

from true_backdrop.jobs.queue import prepare_database
from true_backdrop.settings import settings

if __name__ == "__main__":
    prepare_database(settings())
