"""What can go wrong with a picture or a rule, said to a person.

TrueBackdropError
├── PictureError            a file cannot be used as a picture
│   ├── NotAPicture         another kind of file, or one we do not read
│   ├── BrokenPicture       begins like a picture and does not end like one
│   └── PictureTooLarge     more pixels or bytes than we are willing to open
├── BackdropDoesNotFit      the backdrop frame cannot serve this frame
├── ByteLimitTooLow         no JPEG quality fits under the outlet's limit
└── RuleError               a spec, treatment, product list or name pattern that makes no sense
"""

from __future__ import annotations


class TrueBackdropError(Exception):
    """Root of the family. Its text is a sentence for a person: what, which file, what to do."""


class PictureError(TrueBackdropError):
    """A file cannot be used as a picture."""

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(f"{name}: {reason}")
        self.name = name
        self.reason = reason


class NotAPicture(PictureError):
    """Another kind of file, or a format that is not read here."""


class BrokenPicture(PictureError):
    """Begins like a picture and cannot be decoded to its end."""


class PictureTooLarge(PictureError):
    """More pixels or bytes than are opened."""


class BackdropDoesNotFit(TrueBackdropError):
    """The backdrop frame cannot serve this frame; the text gives the measurement and the way out."""


class ByteLimitTooLow(TrueBackdropError):
    """Even the lowest acceptable JPEG quality is larger than the limit."""

    def __init__(self, limit_bytes: int, smallest_bytes: int) -> None:
        super().__init__(
            f"the picture needs at least {smallest_bytes:,} bytes at the lowest acceptable quality, the limit is "
            f"{limit_bytes:,}; raise the limit or make the picture smaller"
        )
        self.limit_bytes = limit_bytes
        self.smallest_bytes = smallest_bytes


class RuleError(TrueBackdropError):
    """A spec, treatment, product list or name pattern that makes no sense."""
