"""Pictures of another hand, drawn as vectors, so that they are sharp at any size: things with grey rims, white faces, thin parts.

They are the symbols of the npm package `@svgmoji/noto`, drawn once by Chromium with their true alpha.
"""

from __future__ import annotations

import re
from pathlib import Path

from tools.chromium import chromium

from bench.composites import fetched

PACKAGE, VERSION = "@svgmoji/noto", "3.2.0"
#: Each is drawn so large (pixels).
SIDE = 900
#: A symbol of the package's one file, under its code points; of these things, plants, animals, hands and some signs, and no faces.
_SYMBOL = re.compile(r'<svg viewBox="0 0 128 128" id="([0-9A-F-]+)".*?</svg>', re.DOTALL)
_THINGS = re.compile(r"(1F[3-9A][0-9A-F]{2}|2[67][0-9A-F]{2})(-FE0F)?")
_OTHERS = re.compile(r"1F(5[0-5]|6[0-4]|19)")


def pictures() -> list[Path]:
    """All of them, as PNG files with alpha."""
    folder = fetched(PACKAGE, VERSION, "vectors")
    drawn = folder / "drawn"
    if not drawn.exists():
        _draw((folder / "package" / "sprites" / "all.svg").read_text(), drawn)
    return sorted(drawn.glob("*.png"))


def _draw(sprites: str, into: Path) -> None:
    half = into.with_suffix(".part")
    half.mkdir(exist_ok=True)
    with chromium() as browser:
        page = browser.new_page(viewport={"width": SIDE, "height": SIDE})
        for found in _SYMBOL.finditer(sprites):
            name = found.group(1)
            if _THINGS.fullmatch(name) and not _OTHERS.match(name):
                sized = found.group(0).replace("<svg ", f'<svg width="{SIDE}" height="{SIDE}" ', 1)
                page.set_content(f'<body style="margin:0;background:transparent">{sized}</body>')
                page.screenshot(path=half / f"{name}.png", omit_background=True)
    half.rename(into)
