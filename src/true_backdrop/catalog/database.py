"""Engine, sessions, migrations, and the notices that feed the browser."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path

import alembic.command
import alembic.config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict

#: PostgreSQL channel on which changes of a shoot are announced.
CHANNEL = "true_backdrop"

_MEANINGS = {
    "uq_product_code_in_shoot": "a product with this code is in the shoot already",
    "uq_angle_name_in_shoot": "an angle of this name is in the shoot already",
    "uq_frame_bytes_in_shoot": "this very file is in the shoot already",
    "pk_outlet": "an outlet of this name is there already",
}


@lru_cache(8)
def engine(url: str) -> Engine:
    """The engine of a database; connections that died are noticed before they are used."""
    return create_engine(url, pool_pre_ping=True, pool_size=12, max_overflow=8, connect_args={"connect_timeout": 3})


@contextmanager
def transaction(url: str) -> Iterator[Session]:
    """A session that commits at the end, or leaves no trace. Known constraints get their meaning."""
    with Session(engine(url), expire_on_commit=False) as session:
        try:
            yield session
            session.commit()
        except IntegrityError as fault:
            session.rollback()
            name = getattr(getattr(fault.orig, "diag", None), "constraint_name", None)
            if name in _MEANINGS:
                raise Conflict(_MEANINGS[name]) from fault
            raise


def announce(session: Session, shoot_id: int, what: str) -> None:
    """Tell the browsers, when this transaction commits, that something of a shoot has changed."""
    payload = json.dumps({"shoot": shoot_id, "what": what})
    session.execute(text("select pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})


def migrate(url: str) -> None:
    """Bring the database to the newest schema."""
    config = alembic.config.Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    alembic.command.upgrade(config, "head")
