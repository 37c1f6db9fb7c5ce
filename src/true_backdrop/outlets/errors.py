"""What can go wrong on the way out, said to a person.

TrueBackdropError
└── DeliveryFailed    a file could not be laid down; what was there before is untouched
"""

from __future__ import annotations

from true_backdrop.core.errors import TrueBackdropError


class DeliveryFailed(TrueBackdropError):
    """A file could not be laid down. No half file is visible."""
