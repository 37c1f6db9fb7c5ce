"""Alembic's entry: one online migration on the address it is handed."""

from __future__ import annotations

from alembic import context
from sqlalchemy import create_engine

from true_backdrop.catalog.models import Base

url: str = context.config.attributes["url"]

with create_engine(url).connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        include_name=lambda name, kind, _: kind != "table" or name in Base.metadata.tables,
    )
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
