"""The queue. Importing it opens no connection."""

from __future__ import annotations

from procrastinate import App, PsycopgConnector, RetryStrategy
from procrastinate.exceptions import ConnectorException
from psycopg import OperationalError as PsycopgOperationalError
from sqlalchemy import text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from true_backdrop.catalog.database import engine, migrate, transaction
from true_backdrop.catalog.results import seed_outlets
from true_backdrop.settings import Settings, settings

app = App(connector=PsycopgConnector(conninfo=settings().libpq_url, min_size=1, max_size=4))

#: A database that is away comes back; anything else that fails would fail again. 2, 4, 6, ... seconds.
when_database_is_back = RetryStrategy(
    max_attempts=30, linear_wait=2, retry_exceptions={OperationalError, PsycopgOperationalError, ConnectorException}
)


@app.task(name="finish_shot", queue="shots", retry=when_database_is_back)
def finish_shot(item_id: int) -> None:
    """Cut and finish one shot of a run."""
    from true_backdrop.jobs.shot_work import work_on_item

    work_on_item(item_id)


@app.task(name="look_at_take", queue="takes", retry=when_database_is_back)
def look_at_take(shot_id: int) -> None:
    """Cut and finish a fresh take for the screen."""
    from true_backdrop.jobs.shot_work import look_at_take as look

    look(shot_id)


@app.task(name="merge_series", queue="takes", retry=when_database_is_back)
def merge_series(series_id: int) -> None:
    """Merge a focus series to a take, and look at it."""
    from true_backdrop.jobs.merging import merge_series as merge
    from true_backdrop.jobs.shot_work import look_at_take as look

    for shot_id in merge(series_id):
        look(shot_id)


def defer_merge(session: Session, series_id: int) -> None:
    """Ask for a series to be merged, in the caller's own transaction."""
    connection = session.connection().connection.driver_connection
    merge_series.configure(priority=10, connection=connection).defer(series_id=series_id)


def defer_looks(session: Session, shot_ids: list[int]) -> None:
    """Ask for a look at the chosen takes of shots, in the caller's own transaction. They come before any run."""
    deferrer = look_at_take.configure(priority=10, connection=session.connection().connection.driver_connection)
    for shot_id in shot_ids:
        deferrer.defer(shot_id=shot_id)


def defer_items(session: Session, item_ids: list[int]) -> None:
    """Ask for work on run items, in the caller's own transaction: rows and jobs commit together or not at all."""
    connection = session.connection().connection.driver_connection
    deferrer = finish_shot.configure(connection=connection)
    for item_id in item_ids:
        deferrer.defer(item_id=item_id)


def prepare_database(config: Settings) -> None:
    """Schema of the catalog and of the queue, and the shipped outlets. Harmless to repeat."""
    url = config.database_url.get_secret_value()
    migrate(url)
    with engine(url).connect() as connection:
        there = connection.execute(text("select to_regclass('procrastinate_jobs')")).scalar()
    if there is None:
        import procrastinate

        sync_app = App(connector=procrastinate.SyncPsycopgConnector(conninfo=config.libpq_url))
        with sync_app.open():
            sync_app.schema_manager.apply_schema()
    with transaction(url) as session:
        seed_outlets(session)
