"""A worker process: `python -m true_backdrop.jobs.worker`. Any number may run, on any machine."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from datetime import UTC, datetime

from true_backdrop.core.warm import warm
from true_backdrop.jobs.queue import app

log = logging.getLogger("true_backdrop.worker")

HEARTBEAT_S = 3.0
#: A worker that has not been heard of for this long is dead; what it was doing is done again.
DEAD_AFTER_S = 12.0


async def rescue_orphans() -> None:
    """Put back, again and again, jobs whose worker died in the middle of them."""
    while True:
        with contextlib.suppress(Exception):
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER_S):
                log.warning("job %s lost its worker and is put back", job.id, extra={"action": "rescue_job", "job": job.id})
                await app.job_manager.retry_job(job, retry_at=datetime.now(UTC))
        await asyncio.sleep(HEARTBEAT_S)


async def work() -> None:
    async with app.open_async():
        rescue = asyncio.create_task(rescue_orphans())
        try:
            await app.run_worker_async(
                queues=["takes", "shots"],
                concurrency=1,
                fetch_job_polling_interval=2.0,
                update_heartbeat_interval=HEARTBEAT_S,
                stalled_worker_timeout=DEAD_AFTER_S,
                delete_jobs="successful",
            )
        finally:
            rescue.cancel()


def main() -> None:
    logging.basicConfig(level=logging.INFO, format="%(asctime)s worker %(levelname)s %(message)s")
    logging.getLogger("procrastinate").setLevel(logging.WARNING)
    warm(usual_only=True)  # otherwise the first take would wait for it
    asyncio.run(work())


if __name__ == "__main__":
    main()
