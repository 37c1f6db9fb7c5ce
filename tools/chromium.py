"""Debian's headless Chromium, quiet and with plain sRGB, for the browser tests and the screenshots."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, sync_playwright

EXECUTABLE = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
]


@contextmanager
def chromium() -> Iterator[Browser]:
    """A browser for as long as the context lasts."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=EXECUTABLE, args=ARGUMENTS)
        try:
            yield browser
        finally:
            browser.close()
