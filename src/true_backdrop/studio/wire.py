"""Messages between the program and a device process: a JSON head and a body of bytes, each with its length before it."""

from __future__ import annotations

import json
import struct
from typing import Any

_LENGTHS = struct.Struct(">II")
#: Longer than any frame; a length beyond it is not ours.
LONGEST = 1 << 28


def packed(head: dict[str, Any], body: bytes = b"") -> bytes:
    """A message as bytes."""
    text = json.dumps(head, separators=(",", ":")).encode()
    return _LENGTHS.pack(len(text), len(body)) + text + body


def lengths(prefix: bytes) -> tuple[int, int]:
    """Lengths of head and body; raises ValueError when these bytes cannot begin a message."""
    head, body = _LENGTHS.unpack(prefix)
    if head > LONGEST or body > LONGEST:
        raise ValueError("these bytes are no message of a studio device")
    return int(head), int(body)


PREFIX = _LENGTHS.size


def parsed(text: bytes) -> dict[str, Any]:
    """The head of a message."""
    head = json.loads(text)
    if not isinstance(head, dict):
        raise ValueError("the head of a message must be an object")
    return head
