"""What routes ask for, named once."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Annotated

from fastapi import Depends
from sqlalchemy.orm import Session

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import transaction
from true_backdrop.settings import settings


def _session() -> Iterator[Session]:
    with transaction(settings().database_url.get_secret_value()) as session:
        yield session


@lru_cache(1)
def blob_store() -> BlobStore:
    return BlobStore(settings().blob_url)


#: A session whose transaction commits before the answer is sent.
Db = Annotated[Session, Depends(_session, scope="function")]
Blobs = Annotated[BlobStore, Depends(blob_store)]
