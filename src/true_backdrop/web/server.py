"""The web server process: `python -m true_backdrop.web.server`."""

from __future__ import annotations

import logging

import uvicorn

from true_backdrop.settings import settings
from true_backdrop.web.app import create_app


def main() -> None:
    logging.basicConfig(level=logging.INFO, format="%(asctime)s web %(levelname)s %(message)s")
    # Open event streams would hold the server up for ever.
    uvicorn.run(create_app(), host=settings().host, port=settings().port, log_level="warning", timeout_graceful_shutdown=2)


if __name__ == "__main__":
    main()
