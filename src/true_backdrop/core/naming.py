"""Names: which shot a frame's file name means, and what a finished file is called."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from true_backdrop.core.errors import RuleError

FIELDS = ("code", "angle", "name", "outlet", "number")
_FIELD = re.compile(r"\{([a-z]+)(?::(\d{1,2}))?\}")


class NamePattern:
    """A pattern like `{code}_{angle}` or `{name}-{number:3}`; the extension comes from the spec's format.

    >>> NamePattern("{code}_{angle}").fill({"code": "HT-204", "angle": "front"})
    'HT-204_front'
    """

    def __init__(self, text: str) -> None:
        found = _FIELD.findall(text)
        unknown = [field for field, _ in found if field not in FIELDS]
        if unknown:
            raise RuleError(f"name pattern {text!r}: unknown field {unknown[0]!r}; there are {', '.join(FIELDS)}")
        if "{" in _FIELD.sub("", text) or "}" in _FIELD.sub("", text):
            raise RuleError(f"name pattern {text!r}: a brace is not closed; write fields like {{code}}")
        if not {"code", "number"} & {field for field, _ in found}:
            raise RuleError(f"name pattern {text!r} must hold {{code}} or {{number}}, or files would share a name")
        self.text = text

    def fill(self, values: Mapping[str, str | int]) -> str:
        """The file name without extension, safe on every file system."""

        def one(found: re.Match[str]) -> str:
            value = values.get(found[1], "")
            return f"{value:0{found[2] or 0}}" if isinstance(value, int) else str(value)

        return safe_file_name(_FIELD.sub(one, self.text))


def safe_file_name(text: str) -> str:
    """Letters, digits, dot, dash and underscore only; accents taken off, spaces to dashes, never empty or hidden."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    plain = re.sub(r"\s+", "-", plain.strip())
    return re.sub(r"[^A-Za-z0-9._-]+", "", plain).strip("._-")[:120] or "picture"


def stem(file_name: str) -> str:
    """The last part of a path, without its extension; both kinds of slash."""
    base = re.split(r"[\\/]", file_name)[-1]
    return base.rsplit(".", 1)[0] if "." in base.strip(".") else base


@dataclass(frozen=True, slots=True)
class NamedShot:
    """What a frame's file name says: product code and angle, as the plan spells them."""

    code: str
    angle: str


_BACKDROP_WORDS = {"backdrop", "empty", "emptyset"}


def is_backdrop_name(file_name: str) -> bool:
    """Whether a file name announces a frame of the empty set: `backdrop.jpg`, `empty_set_2.tif`."""
    words = [word for word in re.split(r"[^a-z]+", stem(file_name).lower()) if word]
    return bool(words) and (words[0] in _BACKDROP_WORDS or "".join(words[:2]) == "emptyset")


def silhouette_of(file_name: str) -> str | None:
    """What a silhouette frame's name says beside that: `HT-204_front` for `HT-204_front_silhouette.jpg`; else None."""
    found = re.fullmatch(r"(.+?)[\s_.\-]+silhouette([\s_.\-]*\d+)?", stem(file_name), flags=re.IGNORECASE)
    return found[1] if found else None


def match_shot(file_name: str, codes: Iterable[str], angles: Iterable[str]) -> NamedShot | None:
    """Find the planned shot that a file name like `HT-204_front.jpg` means.

    The longest product code that the name begins with wins, so `HT-20` does not take `HT-204`'s frames.
    A name with a code alone means the only angle of a plan with one angle. Case and the kind of separator
    do not matter; take numbers after the angle are ignored. None when the name does not say.

    >>> match_shot("ht 204-FRONT_02.tif", ["HT-20", "HT-204"], ["front", "side"])
    NamedShot(code='HT-204', angle='front')
    """
    name = _key(stem(file_name))
    angles = list(angles)
    for code in sorted(codes, key=len, reverse=True):
        key = _key(code)
        if not (name == key or name.startswith(key + "-")):
            continue
        rest = name[len(key) :].strip("-")
        for angle in sorted(angles, key=len, reverse=True):
            if re.fullmatch(re.escape(_key(angle)) + r"(-\d+)?", rest):
                return NamedShot(code, angle)
        if len(angles) == 1 and re.fullmatch(r"\d*", rest):
            return NamedShot(code, angles[0])
        return None
    return None


def _key(text: str) -> str:
    return re.sub(r"[\s_.\-]+", "-", text.strip().lower())
