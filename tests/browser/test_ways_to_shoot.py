"""The other ways to a take, in a real browser: focus series, spin, framing box, takes compared, a watched folder."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.studio.process import Process, running
from true_backdrop.studio.protocols import CameraSettings

pytestmark = pytest.mark.browser


@pytest.fixture
def process() -> Iterator[Process]:
    with running() as made:
        yield made


@pytest.fixture
def studio_address(process: Process) -> str:
    return f"127.0.0.1:{process.port}"


def shoot_of(page: Page, codes: str, angles: list[str]) -> int:
    made = int(page.request.post("/api/shoots", data={"name": "Ways", "angles": angles}).json()["id"])
    page.request.post(f"/api/shoots/{made}/products", data={"text": codes})
    return made


def at_the_table(page: Page, shoot: int) -> None:
    page.goto(f"/shoots/{shoot}/shoot")
    expect(page.get_by_role("button", name="Take (T)")).to_be_enabled(timeout=20_000)


def point(page: Page, x: float, y: float) -> None:
    box = page.get_by_role("img", name="Live view", exact=True).bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])


def test_a_focus_series_is_marked_shot_and_merged(page: Page, process: Process) -> None:
    studio = process.client()
    studio.hands({"table": {"code": "HT-204", "angle": "above"}})
    studio.set_camera(CameraSettings(f_number=4.0, shutter_s=1 / 945))
    at_the_table(page, shoot_of(page, "HT-204,Jug", ["above"]))
    page.get_by_role("tab", name="Focus").click()
    page.get_by_role("button", name="Near point").click()
    point(page, 0.5, 0.65)
    expect(page.get_by_text("near 10", exact=False)).to_be_visible(timeout=10_000)
    # The far point without a pointer: arrow keys and Enter.
    page.get_by_role("button", name="Far point").click()
    aim = page.get_by_role("application")
    expect(aim).to_be_focused()
    for _ in range(13):
        page.keyboard.press("ArrowUp")
    page.keyboard.press("Enter")
    expect(page.get_by_text("slices at f/4", exact=False)).to_be_visible(timeout=10_000)
    page.get_by_role("button", name="Shoot the series").click()
    expect(page.get_by_text("merged to one take", exact=False)).to_be_visible(timeout=60_000)
    expect(page.get_by_alt_text("Finished square of HT-204 above")).to_be_visible(timeout=40_000)


def test_a_spin_is_planned_shot_stopped_and_completed(page: Page, process: Process) -> None:
    process.client().hands({"table": {"code": "HT-204", "angle": "spin"}})
    shoot = shoot_of(page, "HT-204,Jug\nHT-215,Mug", ["front"])
    page.goto(f"/shoots/{shoot}/plan")
    page.get_by_role("button", name="Add a view").click()
    page.get_by_role("button", name="A spin").click()
    page.get_by_label("Name of the spin").fill("spin")
    page.get_by_label("Positions in a full turn").fill("6")
    page.get_by_label("Products").fill("HT-204")
    page.get_by_role("option", name="HT-204").click()
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("spin, 0 of 6")).to_have_count(1)
    page.get_by_role("button", name="HT-204 spin-01").click()
    expect(page.get_by_test_id("named-shot")).to_have_text("HT-204 spin-01")
    expect(page.get_by_role("button", name="Shoot all 6 positions")).to_be_enabled(timeout=20_000)
    page.get_by_role("button", name="Shoot all 6 positions").click()
    page.get_by_role("button", name="Stop after this position").click()
    rest = page.get_by_role("button", name="Shoot the missing")
    expect(rest).to_be_enabled(timeout=30_000)
    rest.click()
    expect(page.get_by_text("spin: 6 of 6 positions are there")).to_be_visible(timeout=60_000)
    # The mug was never meant to be turned.
    page.get_by_role("button", name="Plan").first.click()
    expect(page.get_by_text("spin, 6 of 6")).to_have_count(1)


def test_the_framing_box_is_drawn_kept_and_recalled(page: Page, process: Process) -> None:
    process.client().hands({"table": {"code": "HT-204", "angle": "front"}})
    shoot = shoot_of(page, "HT-204,Jug", ["front"])
    at_the_table(page, shoot)
    page.get_by_role("tab", name="Frame", exact=True).click()
    page.get_by_role("button", name="Draw a box").click()
    page.get_by_label("Left side").focus()
    for _ in range(10):
        page.keyboard.press("Shift+ArrowRight")
    page.get_by_role("button", name="Keep this box").click()
    expect(page.get_by_text("What stands outside is left out", exact=False)).to_be_visible()
    kept = page.request.get(f"/api/shoots/{shoot}").json()["treatment"]["cut"]["framing"]
    assert kept["left"] > 0.06 and kept["top"] == pytest.approx(0.05, abs=0.005)
    page.get_by_role("tab", name="Set-ups").click()
    page.get_by_label("Name of the set-up").fill("narrow")
    page.get_by_role("button", name="Save").click()
    page.get_by_role("tab", name="Frame", exact=True).click()
    page.get_by_role("button", name="Keep the whole view").click()
    expect(page.get_by_text("The whole view is kept", exact=False)).to_be_visible()
    page.get_by_role("tab", name="Set-ups").click()
    page.get_by_role("combobox", name="Set-up").click()
    page.get_by_role("option", name="narrow").click()
    expect(page.get_by_test_id("framing-box")).to_be_visible(timeout=10_000)
    assert page.request.get(f"/api/shoots/{shoot}").json()["treatment"]["cut"]["framing"] == kept


def test_takes_are_compared_in_place_and_the_earlier_one_chosen(page: Page, process: Process) -> None:
    studio = process.client()
    studio.hands({"table": {"code": "HT-204", "angle": "front"}})
    shoot = shoot_of(page, "HT-204,Jug", ["front"])
    at_the_table(page, shoot)
    page.keyboard.press("t")
    expect(page.get_by_alt_text("Finished square of HT-204 front")).to_be_visible(timeout=40_000)
    page.keyboard.press("r")
    studio.hands({"table": {"right": 0.03}})
    page.wait_for_timeout(500)
    page.keyboard.press("t")
    expect(page.get_by_text("take 2 of 2")).to_be_visible(timeout=40_000)
    page.keyboard.press("k")
    expect(page.get_by_alt_text("Take 2", exact=True)).to_be_visible()
    page.keyboard.press("x")
    expect(page.get_by_alt_text("Take 1", exact=True)).to_be_visible()
    page.get_by_role("button", name="Choose this take").click()
    expect(page.get_by_role("button", name="Take 1, chosen")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("take 1 of 2")).to_be_visible()


def test_a_watched_folder_fills_the_list(page: Page, process: Process, tmp_path: Path) -> None:
    studio, folder = process.client(), tmp_path / "tethered"
    folder.mkdir()
    page.goto(f"/shoots/{shoot_of(page, 'HT-204,Jug', ['front'])}/shoot?way=folder")
    page.get_by_label("Folder to watch").fill(str(folder / "nowhere"))
    page.get_by_role("button", name="Watch it").click()
    expect(page.get_by_text("is not there", exact=False)).to_be_visible()
    page.get_by_label("Folder to watch").fill(str(folder))
    page.get_by_role("button", name="Watch it").click()
    expect(page.get_by_test_id("next-file")).to_have_text("HT-204 front")
    page.get_by_role("button", name="the empty set (E)").click()
    expect(page.get_by_role("button", name="the empty set (E)")).to_have_attribute("aria-pressed", "true")

    def written(name: str, code: str | None) -> None:
        studio.hands({"table": {"code": code, "angle": "front"}})
        (folder / name).write_bytes(studio.fetch(studio.release()).data)

    written("IMG_0001.JPG", None)
    expect(page.get_by_text("IMG_0001.JPG: empty set")).to_be_visible(timeout=20_000)
    written("IMG_0002.JPG", "HT-204")
    expect(page.get_by_text("IMG_0002.JPG: HT-204 front")).to_be_visible(timeout=20_000)
    expect(page.get_by_alt_text("Finished square of HT-204 front")).to_be_visible(timeout=40_000)
    expect(page.get_by_text("clean", exact=True)).to_be_visible(timeout=20_000)
    expect(page.get_by_test_id("next-file")).to_have_text("Nothing left to shoot")
