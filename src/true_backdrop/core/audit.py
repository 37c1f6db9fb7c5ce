"""Is this finished picture what an outlet's spec demands? Looks at the bytes that would be sent."""

from __future__ import annotations

import io
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from true_backdrop.core import codec
from true_backdrop.core.arrays import EncodedRGB, Mask
from true_backdrop.core.spec import Spec

#: A JPEG's own error near white; anything darker belongs to product or shadow.
WHITE_ENOUGH = 245
#: Width of the border that has to be exact white, as a part of the side.
BORDER = 0.01
#: Product and coverage may differ by this much (rounding, soft edges).
COVERAGE_TOLERANCE = 0.015
#: At most this part of the product may be pure white on all channels.
BLOWN_OUT_PART = 0.02
#: From here on a highlight holds no detail; a JPEG may turn 255 into 254.
BLOWN_FROM = 254
#: An enclosed white place larger than this part of the product is a hole, not a highlight.
LARGEST_HIGHLIGHT = 0.004
#: With chroma at half size a JPEG's unit is 16 px (ITU-T T.81, clause A.2), interpolated to one more, and the
#: product's soft edge above white's threshold takes a few; beyond this distance nothing of the edge reaches.
RINGING_PX = 24


@dataclass(frozen=True, slots=True)
class Finding:
    """One rule, what it wants, what was found, whether it holds, and what would cure it."""

    rule: str
    wanted: str
    found: str
    passed: bool
    cure: str = ""


def audit(data: bytes, name: str, spec: Spec) -> list[Finding]:
    """Every rule of the spec against a file.

    Raises
    ------
    PictureError
        When the file is no readable picture at all.
    """
    picture = codec.decode(data, name)
    image = Image.open(io.BytesIO(data))
    pixels = np.asarray(picture.pixels if picture.pixels.dtype == np.uint8 else picture.pixels >> 8, np.uint8)
    mark = marked_mask(pixels)
    findings = [
        _rule("format", spec.format.upper(), (image.format or "").upper(), f"save it as {spec.format.upper()}"),
        _rule(
            "pixel size",
            f"{spec.side_px} x {spec.side_px}",
            f"{picture.width} x {picture.height}",
            "finish it again with this spec",
        ),
        _rule(
            "square",
            "1:1",
            "1:1" if picture.width == picture.height else f"{picture.width / picture.height:.3f}:1",
            "add canvas to make it square",
        ),
        _profile(picture.source_profile, bool(image.info.get("icc_profile"))),
        _density(picture.density_ppi, spec),
    ]
    if spec.max_bytes is not None:
        findings.append(
            Finding(
                "file size",
                f"at most {spec.max_bytes:,} bytes",
                f"{len(data):,} bytes",
                len(data) <= spec.max_bytes,
                "lower the quality or the pixel size",
            )
        )
    findings.append(_white_border(pixels))
    if spec.shadow == "none":
        findings.append(_white_ground(pixels, mark))
    if spec.wanted_coverage is not None:
        findings.append(_coverage(mark, spec.wanted_coverage))
    findings.append(_blown_out(pixels, mark))
    return findings


def _rule(rule: str, wanted: str, found: str, cure: str) -> Finding:
    return Finding(rule, wanted, found, wanted == found, cure)


def _profile(described: str | None, embedded: bool) -> Finding:
    right = described is not None and "srgb" in described.lower()
    found = described if described else ("unnamed profile" if embedded else "no profile")
    return Finding("colour profile", "sRGB, embedded", found, right, "save it with its sRGB profile")


def _density(found: float | None, spec: Spec) -> Finding:
    shown = "none" if found is None else f"{found:.0f} ppi"
    # PNG stores pixels per metre, so 300 ppi reads back as 299.9994.
    right = found is not None and abs(found - spec.density_ppi) < 0.5
    return Finding("density", f"{spec.density_ppi} ppi", shown, right, "write the density into the file")


def marked_mask(pixels: EncodedRGB) -> Mask:
    """What is not backdrop: darker than white by more than a JPEG's error, specks of a pixel left out."""
    dark = (pixels.min(axis=-1) < WHITE_ENOUGH).astype(np.uint8)
    return cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)) > 0


def _white_border(pixels: EncodedRGB) -> Finding:
    by = max(1, round(BORDER * min(pixels.shape[:2])))
    white = (pixels == 255).all(axis=-1)
    inside = np.zeros(white.shape, bool)
    inside[by:-by, by:-by] = True
    bad = int((~white & ~inside).sum())
    return Finding(
        "white border",
        "255, 255, 255 all round",
        "exact white" if bad == 0 else f"{bad:,} pixels are not",
        bad == 0,
        "cut again: backdrop or product reaches the edge",
    )


def _white_ground(pixels: EncodedRGB, mark: Mask) -> Finding:
    size = 2 * RINGING_PX + 1
    near = cv2.dilate(mark.astype(np.uint8), np.ones((size, size), np.uint8)) > 0
    bad = int(((pixels != 255).any(axis=-1) & ~near).sum())
    return Finding(
        "white backdrop",
        "255, 255, 255 around the product",
        "exact white" if bad == 0 else f"{bad:,} pixels are not",
        bad == 0,
        "cut again with a looser backdrop match",
    )


def _coverage(mark: Mask, wanted: float) -> Finding:
    rows, columns = np.flatnonzero(mark.any(axis=1)), np.flatnonzero(mark.any(axis=0))
    if rows.size == 0:
        return Finding("coverage", f"{wanted:.0%}", "nothing but white", False, "no product is in the picture; cut again")
    longer = int(max(rows[-1] - rows[0], columns[-1] - columns[0])) + 1
    found = longer / max(mark.shape)
    return Finding(
        "coverage",
        f"{wanted:.0%} of the side",
        f"{found:.1%}",
        abs(found - wanted) <= COVERAGE_TOLERANCE,
        "finish it again with this coverage",
    )


def blown_out_mask(pixels: EncodedRGB, mark: Mask) -> Mask:
    """Pure white inside the product. `mark` is what is darker than white.

    A hole that shows the backdrop is a large even white place; blown-out product is small ragged white
    among other tones.
    """
    filled = np.zeros(mark.shape, np.uint8)
    outlines, _ = cv2.findContours(mark.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    cv2.drawContours(filled, outlines, -1, 1, thickness=cv2.FILLED)
    inner = ((filled > 0) & ~mark).astype(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(inner, connectivity=4)
    hole = stats[:, cv2.CC_STAT_AREA] > LARGEST_HIGHLIGHT * max(1, int(filled.sum()))
    hole[0] = True
    return np.asarray((pixels >= BLOWN_FROM).all(axis=-1) & ~hole[labels])


def _blown_out(pixels: EncodedRGB, mark: Mask) -> Finding:
    blown = blown_out_mask(pixels, mark)
    part = float(blown.sum()) / max(1, int((mark | blown).sum()))
    return Finding(
        "product not blown out",
        f"at most {BLOWN_OUT_PART:.0%} of it pure white",
        f"{part:.1%}",
        part <= BLOWN_OUT_PART,
        "expose less; the product's highlights hold no detail",
    )
