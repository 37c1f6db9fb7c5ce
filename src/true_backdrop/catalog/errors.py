"""What can go wrong with stored things, said to a person.

TrueBackdropError
└── CatalogError
    ├── Missing          no row with this number
    ├── Conflict         a name or code that is there already
    ├── BlobMissing      the store no longer holds these bytes
    └── StoreFull        the blob could not be written; nothing of it remains
"""

from __future__ import annotations

from true_backdrop.core.errors import TrueBackdropError


class CatalogError(TrueBackdropError):
    """Something about what is stored."""


class Missing(CatalogError):
    """No row with this number."""

    def __init__(self, what: str, number: object) -> None:
        super().__init__(f"there is no {what} {number}; it may have been removed")


class Conflict(CatalogError):
    """A name or code that is there already."""


class BlobMissing(CatalogError):
    """The store no longer holds these bytes."""

    def __init__(self, digest: str) -> None:
        super().__init__(f"the blob store has lost {digest[:12]}...; bring the file in again")


class StoreFull(CatalogError):
    """A blob could not be written. Nothing of it remains."""
