"""The whole slice in a real browser: plan, frames, cut, run, finish, deliver, and the pixels in the ZIP."""

from __future__ import annotations

import io
import os
import re
import zipfile
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import numpy as np
import pytest
from demo.seed import frame_files
from PIL import Image
from playwright.sync_api import Page, expect

from true_backdrop.settings import Settings

pytestmark = pytest.mark.browser
ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="session")
def frames(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Three of the demo's products and the empty set, as a camera would write them."""
    folder = tmp_path_factory.mktemp("frames")
    for name, data in frame_files(codes=["HT-204", "HT-215", "HT-101"]).items():
        (folder / name).write_bytes(data)
    (folder / "HT-215_front.txt").write_text("not a picture")
    return folder


def plan(page: Page) -> None:
    page.goto("/")
    page.get_by_label("Name of the shoot").fill("Autumn")
    page.get_by_role("button", name="Make a shoot").click()
    page.get_by_role("button", name="Add products").first.click()
    page.get_by_role("textbox", name="Product list").fill(
        "code,name,material\nHT-204,Jug,solid\nHT-215,Mug,pale\nHT-101,Lantern,clear\nHT-1,Odd,wood"
    )
    page.get_by_role("button", name="Add to the plan").click()
    expect(page.get_by_text("3 products added")).to_be_visible()
    expect(page.get_by_text("material 'wood' is not known", exact=False)).to_be_visible()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_text("no frame yet")).to_have_count(3)


def bring_in(page: Page, frames: Path) -> None:
    page.get_by_role("button", name="Shoot 0 of 3 have a frame").click()
    page.get_by_label("Frame files").set_input_files([str(path) for path in sorted(frames.iterdir())])
    expect(page.get_by_text("4 files brought in, 1 refused")).to_be_visible(timeout=60_000)
    expect(page.get_by_text("HT-215_front.txt: not a picture", exact=False)).to_be_visible()
    expect(page.get_by_role("button", name="Shoot 3 of 3 have a frame")).to_be_visible()


def test_from_frames_to_a_zip_of_white_squares(page: Page, frames: Path) -> None:
    plan(page)
    bring_in(page, frames)

    page.get_by_role("button", name="Plan").first.click()
    page.get_by_role("button", name="Cut and finish all").click()
    expect(page.get_by_role("button", name="Finish 3 of 3 finished")).to_be_visible(timeout=120_000)

    page.get_by_role("button", name="Deliver").first.click()
    page.get_by_role("tab", name="Pennywharf · 3 ready").click()
    expect(page.get_by_role("img", name="white border: kept")).to_have_count(3)
    page.get_by_role("button", name="Send 3 pictures").click()
    expect(page.get_by_role("link", name="As an archive (ZIP)")).to_be_visible(timeout=20_000)
    with page.expect_download() as download:
        page.get_by_role("link", name="As an archive (ZIP)").click()
    with zipfile.ZipFile(io.BytesIO(Path(download.value.path()).read_bytes())) as archive:
        assert sorted(archive.namelist()) == ["HT-101_front.jpg", "HT-204_front.jpg", "HT-215_front.jpg", "report.csv"]
        for name in archive.namelist()[:3]:
            data = archive.read(name)
            pixels = np.asarray(Image.open(io.BytesIO(data)))
            assert pixels.shape == (2000, 2000, 3) and len(data) <= 153_600
            for border in (pixels[:20], pixels[-20:], pixels[:, :20], pixels[:, -20:]):
                assert (border == 255).all()
            assert (pixels[600:1400, 600:1400] < 200).any(axis=-1).mean() > 0.02
        assert "HT-204_front.jpg" in archive.read("report.csv").decode()


def test_the_bench_follows_the_control_and_the_keys(page: Page, frames: Path) -> None:
    plan(page)
    bring_in(page, frames)
    page.get_by_role("button", name="Cut nothing cut yet").click()
    page.get_by_role("button", name="HT-204").first.click()
    look = page.get_by_test_id("look")
    expect(look).to_be_visible(timeout=30_000)
    expect(page.get_by_text("clean", exact=True)).to_be_visible()
    first = look.get_attribute("src")
    page.keyboard.press("m")
    expect(look).to_have_attribute("alt", "The shot, matte")
    expect(look).not_to_have_attribute("src", first or "")
    page.keyboard.press("v")
    expect(look).to_have_attribute("alt", "The shot, frame")
    page.keyboard.press("v")
    slider = page.get_by_role("slider", name="Backdrop match")
    before = int(slider.get_attribute("aria-valuenow") or "0")
    page.keyboard.press(".")
    page.keyboard.press(".")
    expect(slider).to_have_attribute("aria-valuenow", str(before + 2))
    page.get_by_role("button", name="Keep for this shot").click()
    expect(page.get_by_text("This shot has a value of its own.", exact=False)).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("This shot follows the set.", exact=False)).to_be_visible()
    close_up = re.compile(r"/look-close\?")
    with page.expect_request(close_up):
        page.keyboard.press("h")
    expect(page.get_by_role("button", name="100 %")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("group", name="The picture").focus()
    with page.expect_request(close_up) as moved:
        page.keyboard.press("ArrowLeft")
    with page.expect_request(close_up) as after:
        page.keyboard.press("n")
    expect(page.get_by_role("heading", name="HT-204")).to_have_count(0)
    # The next one is looked at as this one was: as a matte, and at the same place.
    expect(look).to_have_attribute("alt", "The shot, matte")
    expect(page.get_by_role("button", name="100 %")).to_have_attribute("aria-pressed", "true")
    where = [parse_qs(urlsplit(request.value.url).query) for request in (moved, after)]
    assert moved.value.url.split("?")[0] != after.value.url.split("?")[0]
    assert all(where[0][name] == where[1][name] for name in ("view", "left", "top"))
    page.keyboard.press("Shift+?")
    expect(page.get_by_role("dialog")).to_contain_text("Before and after")


def test_finish_reads_points_and_keeps_settings(page: Page, frames: Path) -> None:
    plan(page)
    bring_in(page, frames)
    page.get_by_role("button", name="Finish").first.click()
    square = page.get_by_role("img", name="The finished square")
    expect(square).to_be_visible(timeout=30_000)
    square.click(position={"x": 6, "y": 6})
    expect(page.get_by_text("255, 255, 255: exact white")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="Not white")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("slider", name="Sharpen").press("ArrowRight")
    expect(page.get_by_role("button", name="Take the set's last change back")).to_be_enabled()
    expect(page.get_by_text("65 %")).to_be_visible()


def tab_to(page: Page, name: str, *, at_most: int = 40) -> None:
    """Press Tab until the control of that name has the focus, as a person would who follows the ring."""
    for _ in range(at_most):
        page.keyboard.press("Tab")
        # Read in one step: what has the focus can go while a list is drawn anew.
        label = page.evaluate(
            "() => { const e = document.activeElement; return e === document.body ? '' : (e.ariaLabel ?? e.innerText ?? ''); }"
        )
        if name in label:
            return
    pytest.fail(f"{name} cannot be reached with Tab")


def test_the_keyboard_alone_goes_from_the_plan_to_a_delivery(page: Page, frames: Path) -> None:
    plan(page)
    bring_in(page, frames)
    tab_to(page, "Plan")
    page.keyboard.press("Enter")
    tab_to(page, "Cut and finish all")
    ring = page.evaluate("getComputedStyle(document.activeElement).outlineStyle")
    assert ring == "solid"
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Finish 3 of 3 finished")).to_be_visible(timeout=120_000)
    tab_to(page, "Deliver")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Send 3 pictures")).to_be_enabled()
    tab_to(page, "Send 3 pictures")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="As an archive (ZIP)")).to_be_visible(timeout=20_000)


def test_an_outlet_is_made_changed_and_removed(page: Page) -> None:
    plan(page)
    page.get_by_role("button", name="Deliver").first.click()
    page.get_by_role("button", name="New outlet", exact=True).click()
    page.get_by_label("Name of the outlet").fill("Quay Four")
    page.get_by_label("Side of the square").fill("20")
    page.get_by_role("button", name="Add the outlet").click()
    expect(page.get_by_role("alert")).to_contain_text("side_px", ignore_case=True)
    page.get_by_label("Side of the square").fill("800")
    page.get_by_role("button", name="Add the outlet").click()
    expect(page.get_by_role("tab", name="Quay Four · 0 ready")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_text("JPEG, 800 x 800 px, quality 85", exact=False)).to_be_visible()
    page.get_by_role("button", name="Change its rules").click()
    page.get_by_label("Side of the square").fill("900")
    page.get_by_role("button", name="Keep these rules").click()
    expect(page.get_by_text("JPEG, 900 x 900 px, quality 85", exact=False)).to_be_visible()
    page.get_by_role("button", name="Remove").click()
    page.get_by_role("dialog").get_by_role("button", name="Remove").click()
    expect(page.get_by_role("tab", name="Quay Four", exact=False)).to_have_count(0)
    expect(page.get_by_role("button", name="Change its rules")).to_have_count(0)


def test_a_database_that_goes_away_is_said_and_comes_back(page: Page, config: Settings, address: str) -> None:
    import psycopg

    plan(page)
    server = os.environ["TRUE_BACKDROP_TEST_SERVER"].replace("postgresql+psycopg://", "postgresql://")
    name = config.libpq_url.rsplit("/", 1)[1]
    with psycopg.connect(server, autocommit=True) as admin:
        admin.execute(f'alter database "{name}" allow_connections false')
        admin.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = %s", [name])
        expect(page.get_by_role("alert").filter(has_text="does not answer")).to_be_visible(timeout=20_000)
        admin.execute(f'alter database "{name}" allow_connections true')
    expect(page.get_by_role("alert").filter(has_text="does not answer")).to_have_count(0, timeout=30_000)
    expect(page.get_by_text("no frame yet")).to_have_count(3)
