"""Delivery as one ZIP archive."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable

from true_backdrop.outlets.folder import OutgoingFile

#: The same files give the same archive, byte for byte.
_EPOCH = (1980, 1, 1, 0, 0, 0)


def archive(files: Iterable[OutgoingFile]) -> bytes:
    """A ZIP of files. Pictures are compressed already and are stored as they are."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as zipped:
        for file in files:
            zipped.writestr(zipfile.ZipInfo(file.name, _EPOCH), file.data)
    return out.getvalue()
