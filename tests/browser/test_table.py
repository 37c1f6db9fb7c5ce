"""A session at the table in a real browser, with the simulated studio: 3 products from 3 angles."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.studio.process import Process, running

pytestmark = pytest.mark.browser
CODES, ANGLES = ("HT-204", "HT-215", "HT-101"), ("front", "turned", "above")


@pytest.fixture
def process() -> Iterator[Process]:
    with running() as made:
        yield made


@pytest.fixture
def studio_address(process: Process) -> str:
    return f"127.0.0.1:{process.port}"


def plan(page: Page) -> None:
    page.goto("/")
    made = page.request.post("/api/shoots", data={"name": "At the table", "angles": list(ANGLES)}).json()["id"]
    text = "HT-204,Jug,solid\nHT-215,Mug,pale\nHT-101,Lantern,clear"
    page.request.post(f"/api/shoots/{made}/products", data={"text": text})
    page.goto(f"/shoots/{made}/shoot")
    expect(page.get_by_role("tab", name="At the table")).to_be_visible()
    page.get_by_role("button", name="by angle").click()


def take(page: Page, code: str, angle: str) -> None:
    expect(page.get_by_test_id("named-shot")).to_have_text(f"{code} {angle}", timeout=20_000)
    expect(page.get_by_role("button", name="Take (T)")).to_be_enabled(timeout=20_000)
    page.keyboard.press("t")
    expect(page.get_by_alt_text(f"Finished square of {code} {angle}")).to_be_visible(timeout=40_000)


def shoot_the_empty_set(page: Page) -> None:
    expect(page.get_by_role("button", name="Empty set (E)")).to_be_enabled(timeout=20_000)
    with page.expect_response("**/release") as released:
        page.keyboard.press("e")
    assert released.value.status == 201


def test_three_products_from_three_angles(page: Page, process: Process) -> None:
    studio = process.client()
    plan(page)
    for angle in ANGLES:
        for code in CODES:
            studio.hands({"table": {"code": code, "angle": angle, "right": 0.0}})
            take(page, code, angle)
            if code == CODES[0]:
                page.get_by_role("button", name=f"Make it the guide for {angle}").click()
                expect(page.get_by_role("button", name=f"Guide for {angle}", exact=True)).to_be_disabled()
            if angle == "front" and code == CODES[0]:
                misplaced(page, process)
        # The empty set of this angle, last: what was taken is cut again by itself.
        press(page, "r")
        studio.hands({"table": {"code": None, "angle": angle}})
        expect(page.get_by_test_id("named-shot")).to_have_text(f"{CODES[-1]} {angle}")
        shoot_the_empty_set(page)
        expect(page.get_by_text(f"No backdrop frame for {angle} yet", exact=False)).to_have_count(0)
        expect(page.get_by_text("Cut against a guessed backdrop", exact=False)).to_have_count(0, timeout=40_000)
        page.keyboard.press("n")
    expect(page.get_by_text("Nothing left to shoot")).to_be_visible()
    assert doubtful(page) == []
    page.get_by_role("button", name="Plan").first.click()
    expect(page.get_by_text("clean", exact=True)).to_have_count(9, timeout=20_000)


def doubtful(page: Page) -> list[tuple[str, str, object]]:
    """The shots that are not clean, once no cut is under way any more."""
    shoot = page.url.split("/shoots/")[1].split("/")[0]
    for _ in range(60):
        shots = page.request.get(f"/api/shoots/{shoot}/shots").json()
        left = [(s["code"], s["angle"], s["cut"]) for s in shots if not s["cut"] or s["cut"]["verdict"] != "clean"]
        if not left:
            break
        page.wait_for_timeout(500)
    return left


def press(page: Page, key: str) -> None:
    """As a hand does: two keys within 40 ms would be a reader of codes."""
    page.keyboard.press(key)
    page.wait_for_timeout(100)


def misplaced(page: Page, process: Process) -> None:
    """The same product again, 4 % too far right: the readout says so, and when it stands right."""
    page.keyboard.press("r")
    readout = page.get_by_role("status", name="Placement")
    process.client().hands({"table": {"right": 0.04}})
    expect(readout).to_contain_text("Move it left", timeout=20_000)
    expect(readout).to_contain_text("4.0 %")
    process.client().hands({"table": {"right": 0.0}})
    expect(readout).to_contain_text("It stands right", timeout=20_000)
    page.keyboard.press("n")


def test_a_lamp_fault_is_named_and_a_lost_camera_comes_back(page: Page, process: Process) -> None:
    studio = process.client()
    plan(page)
    expect(page.get_by_role("button", name="Take (T)")).to_be_enabled(timeout=20_000)
    shoot_the_empty_set(page)
    expect(page.get_by_text("No backdrop frame for front yet", exact=False)).to_have_count(0, timeout=20_000)
    studio.hands({"table": {"code": "HT-204"}, "faults": {"front_lamp_lost": 0.6}})
    page.wait_for_timeout(500)
    take(page, "HT-204", "front")
    expect(page.get_by_text("a lamp was moved, dimmed or is off", exact=False)).to_be_visible()
    process.kill()
    expect(page.get_by_role("alert").first).to_contain_text("check its cable", timeout=20_000)
    expect(page.get_by_role("button", name="Take (T)")).to_be_disabled()
    process.start()
    expect(page.get_by_role("button", name="Take (T)")).to_be_enabled(timeout=30_000)
