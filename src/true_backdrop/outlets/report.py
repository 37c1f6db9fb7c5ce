"""The report that goes with a delivery: one CSV line a picture, with every rule of the spec."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Any

HEAD = ("file", "code", "name", "angle", "bytes", "quality", "verdict", "audit")


def report(rows: Sequence[Mapping[str, Any]]) -> str:
    """CSV text (RFC 4180). `findings` of a row become one column for each rule."""
    rules = list(dict.fromkeys(finding["rule"] for row in rows for finding in row["findings"]))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([*HEAD, *rules])
    for row in rows:
        found = {f["rule"]: f["found"] if f["passed"] else f"FAILS: {f['found']}, wanted {f['wanted']}" for f in row["findings"]}
        cells = [row[field] for field in HEAD[:-1]] + ["passes" if row["passed"] else "fails"]
        writer.writerow([_harmless(cell) for cell in [*cells, *(found.get(rule, "") for rule in rules)]])
    return out.getvalue()


def _harmless(cell: object) -> object:
    """A text that a spreadsheet would run as a formula is quoted (common practice)."""
    return "'" + cell if isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@") else cell
