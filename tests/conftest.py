"""A PostgreSQL database for each test that wants one, cloned from a migrated template; a blob store in a folder."""

from __future__ import annotations

import os
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from true_backdrop import settings as settings_module
from true_backdrop.catalog import database
from true_backdrop.settings import Settings


def _server() -> str:
    url = os.environ.get("TRUE_BACKDROP_TEST_SERVER")
    if not url:
        pytest.fail("these tests need a PostgreSQL server; run them with ./run test")
    return url


def _libpq(url: str) -> str:
    return url.replace("postgresql+psycopg://", "postgresql://")


def _named(url: str, name: str) -> str:
    return url.rsplit("/", 1)[0] + "/" + name


def _on_server(statement: str) -> None:
    with psycopg.connect(_libpq(_server()), autocommit=True) as connection:
        connection.execute(statement)


@pytest.fixture(scope="session")
def template() -> Iterator[str]:
    """A database with the newest schema, made once."""
    from true_backdrop.jobs.queue import prepare_database

    name = f"tb_template_{uuid.uuid4().hex[:10]}"
    _on_server(f'create database "{name}"')
    url = _named(_server(), name)
    prepare_database(Settings(database_url=url))
    database.engine(url).dispose()
    _on_server(f"select pg_terminate_backend(pid) from pg_stat_activity where datname = '{name}'")  # a copy needs it alone
    yield name
    _on_server(f'drop database "{name}" with (force)')


@pytest.fixture
def config(template: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Settings]:
    """Settings of a program with a database and a blob store of its own."""
    name = f"tb_test_{uuid.uuid4().hex[:10]}"
    _on_server(f'create database "{name}" template "{template}"')
    url = _named(_server(), name)
    monkeypatch.setenv("TRUE_BACKDROP_DATABASE_URL", url)
    monkeypatch.setenv("TRUE_BACKDROP_BLOB_URL", str(tmp_path / "blobs"))
    monkeypatch.setenv("TRUE_BACKDROP_DELIVERIES", str(tmp_path / "deliveries"))
    settings_module.settings.cache_clear()
    yield settings_module.settings()
    database.engine(url).dispose()
    settings_module.settings.cache_clear()
    _on_server(f'drop database "{name}" with (force)')


@pytest.fixture
def url(config: Settings) -> str:
    return config.database_url.get_secret_value()
