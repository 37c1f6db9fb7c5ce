"""Pictures of every main view for docs/screenshots, from the running demo.

python -m tools.screenshots [--address http://127.0.0.1:8470] [--out docs/screenshots] [--size 1280x800]
"""

from __future__ import annotations

import argparse
import json
import urllib.request
from pathlib import Path

from playwright.sync_api import Page

from tools.chromium import chromium

#: All pictures of a page are there, and nothing says that it is still being worked out.
_DONE = """() => [...document.images].every(one => one.complete && one.naturalWidth > 0)
    && !document.body.innerText.includes("Proposed: \u2026")"""


def settle(page: Page) -> None:
    """Until all pictures are there and nothing is asked for any more, however slow the machine."""
    page.wait_for_timeout(600)
    page.wait_for_load_state("networkidle") if "/shoots" not in page.url else None
    page.wait_for_timeout(2500)
    page.wait_for_function(_DONE, timeout=60_000)
    page.wait_for_timeout(1500)


def _table(page: Page, address: str, shoot: int) -> None:
    """A take, the empty set, and the same product a little off its guide."""

    def hands(**table: object) -> None:
        page.request.post(f"{address}/api/studio/hands", data={"table": table, "faults": {}})
        page.wait_for_timeout(2500)

    hands(code=None, angle="front", right=0, down=0, turn=0, size=1)
    page.goto(f"{address}/shoots/{shoot}/shoot?way=table")
    page.wait_for_timeout(3000)
    page.get_by_label("Product code").fill("HT-204")
    page.keyboard.press("Enter")
    page.wait_for_timeout(1000)
    page.keyboard.press("e")
    page.wait_for_timeout(3000)
    hands(code="HT-204")
    page.keyboard.press("t")
    page.get_by_alt_text("Finished square of HT-204 front").wait_for(timeout=30_000)
    page.get_by_role("button", name="Make it the guide").click()
    page.keyboard.press("r")
    hands(right=0.021, turn=1.5)
    page.wait_for_timeout(3000)


def _touched(page: Page, address: str) -> None:
    """Glass at 100 % beside its frame, with the touches in hand; nothing is changed."""
    page.goto(address)
    settle(page)
    page.keyboard.press("h")
    page.keyboard.press("k")
    page.get_by_role("tab", name="Touch").click()
    page.get_by_role("button", name="Product here").click()
    page.wait_for_timeout(2500)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--address", default="http://127.0.0.1:8470")
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--only", default="")
    args = parser.parse_args()
    width, height = map(int, args.size.split("x"))
    args.out.mkdir(parents=True, exist_ok=True)
    with urllib.request.urlopen(f"{args.address}/api/shoots") as answer:
        shoot = min(one["id"] for one in json.load(answer))  # the demo is the first
    with urllib.request.urlopen(f"{args.address}/api/shoots") as answer:
        at_table = max(one["id"] for one in json.load(answer))  # and the one to shoot the last
    with urllib.request.urlopen(f"{args.address}/api/shoots/{shoot}/shots") as answer:
        shots = {shot["code"]: shot["id"] for shot in json.load(answer)}
    base = f"/shoots/{shoot}"
    views = {
        "home": "/",
        "plan": f"{base}/plan",
        "shoot": f"{base}/shoot?way=files",
        "cut-set": f"{base}/cut",
        "cut-bench": f"{base}/cut/{shots['HT-204']}",
        "finish": f"{base}/finish/{shots['HT-204']}",
        "deliver": f"{base}/deliver/pennywharf",
    }
    with chromium() as browser:
        page = browser.new_page(viewport={"width": width, "height": height})
        for name, path in views.items():
            if args.only and args.only != name:
                continue
            page.goto(args.address + path)
            settle(page)
            page.screenshot(path=args.out / f"{name}.png")
        if args.only in ("", "cut-touch"):
            _touched(page, f"{args.address}{base}/cut/{shots['HT-131']}")
            page.screenshot(path=args.out / "cut-touch.png")
        if args.only in ("", "table"):
            _table(page, args.address, at_table)
            page.screenshot(path=args.out / "table.png")


if __name__ == "__main__":
    main()
