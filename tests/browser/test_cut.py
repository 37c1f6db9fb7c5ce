"""The station Cut in a real browser: tune the set, repair a wrong cut by touches, carry, out to a retoucher and back."""

from __future__ import annotations

import io
import re
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from demo.seed import frame_files
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.test_slice import bring_in, frames, plan  # noqa: F401  a fixture

pytestmark = pytest.mark.browser


@pytest.fixture
def cut_page(page: Page, frames: Path) -> Page:  # noqa: F811
    """At the station Cut, with everything cut once."""
    plan(page)
    bring_in(page, frames)
    page.get_by_role("button", name="Cut nothing cut yet").click()
    page.get_by_role("button", name="Cut and finish all").click()
    expect(page.get_by_role("button", name="Finish 3 of 3 finished")).to_be_visible(timeout=120_000)
    return page


def shot_of(page: Page, code: str) -> int:
    shoot = re.search(r"/shoots/(\d+)", page.url)
    assert shoot is not None
    return int(next(s["id"] for s in page.request.get(f"/api/shoots/{shoot[1]}/shots").json() if s["code"] == code))


def area(page: Page, shot: int) -> float:
    """Part of the frame that the matte of the bench covers."""
    picture = page.request.get(f"/api/shots/{shot}/look?view=matte&width=600").body()
    return float(np.asarray(Image.open(io.BytesIO(picture)).convert("L")).mean() / 255)


def becomes(page: Page, shot: int, right: Callable[[float], bool]) -> float:
    """The part of the frame that the matte covers, once it is right; a slow machine has time."""
    deadline = time.monotonic() + 20
    while not right(found := area(page, shot)) and time.monotonic() < deadline:
        page.wait_for_timeout(200)
    assert right(found), found
    return found


def open_bench(page: Page, code: str) -> None:
    page.get_by_role("button", name=f"{code} front").click()
    expect(page.get_by_test_id("look")).to_be_visible(timeout=30_000)


def drag(page: Page, *points: tuple[float, float]) -> None:
    """A stroke over the picture, in parts of the whole frame."""
    box = page.get_by_test_id("look").bounding_box()
    assert box is not None
    at = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in points]
    page.mouse.move(*at[0])
    page.mouse.down()
    for x, y in at[1:]:
        page.mouse.move(x, y, steps=6)
    with page.expect_response(lambda response: response.request.method == "POST" and "/touches" in response.url):
        page.mouse.up()


def test_the_set_is_tuned_by_its_chart(cut_page: Page) -> None:
    page = cut_page
    chart = page.get_by_role("img", name=re.compile("^Proposed "))
    expect(chart).to_be_visible()
    slider = page.get_by_role("slider", name="Backdrop match for the set")
    slider.focus()
    for _ in range(8):
        page.keyboard.press("ArrowLeft")
    value = int(slider.get_attribute("aria-valuenow") or "0")
    tile = page.get_by_role("button", name="HT-204 front").locator("img").first
    expect(tile).to_have_attribute("src", re.compile(rf"/api/levels/.*match={value}$"))
    box = chart.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 4, box["y"] + 60)
    expect(
        page.get_by_text("shots would lose product", exact=False).or_(page.get_by_text("shot would lose product", exact=False))
    ).to_be_visible()
    page.get_by_role("button", name=f"Keep {value} for the set").click()
    expect(page.get_by_text(f"Now {value} for every shot", exact=False)).to_be_visible()
    expect(page.get_by_text("not cut with these settings yet", exact=False)).to_be_visible()
    page.get_by_role("button", name="Cut and finish all").click()
    expect(page.get_by_text("not cut with these settings yet", exact=False)).to_have_count(0, timeout=60_000)
    # The wall by keyboard: walk, accept, open.
    page.get_by_role("button", name=re.compile("HT-.* front")).first.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("a")
    expect(page.get_by_text("accepted", exact=True)).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("look")).to_be_visible(timeout=30_000)


def test_a_wrong_cut_is_repaired_with_three_touches(cut_page: Page) -> None:
    page = cut_page
    shot = shot_of(page, "HT-204")
    right = area(page, shot)
    open_bench(page, "HT-204")
    page.get_by_role("tab", name="Touch").click()
    page.keyboard.press("c")
    page.get_by_role("slider", name="Reach of a touch").press("End")
    for points in (((0.48, 0.55), (0.5, 0.6)), ((0.5, 0.45), (0.52, 0.47))):  # made wrong on purpose
        drag(page, *points)
    wrong = area(page, shot)
    assert wrong < 0.7 * right
    page.keyboard.press("y")
    for points in (((0.46, 0.6), (0.5, 0.75)), ((0.47, 0.4), (0.52, 0.55)), ((0.45, 0.7), (0.52, 0.7))):
        drag(page, *points)
    assert area(page, shot) == pytest.approx(right, rel=0.05)
    page.get_by_role("tab", name="History").click()
    expect(page.get_by_text("Product here", exact=True).or_(page.get_by_text("product here", exact=True))).to_have_count(3)
    for _ in range(3):
        with page.expect_response(lambda response: "/undo" in response.url):
            page.keyboard.press("Control+z")
    assert area(page, shot) == pytest.approx(wrong, rel=0.01)


def test_an_edge_is_carried_and_taken_back(cut_page: Page) -> None:
    page = cut_page
    shot, other = shot_of(page, "HT-204"), shot_of(page, "HT-215")
    before = area(page, other)
    open_bench(page, "HT-204")
    page.get_by_role("tab", name="Edge").click()
    edge = page.get_by_role("slider", name="In or out")
    edge.press("Home")
    expect(page.get_by_text("-3.0 px")).to_be_visible()
    assert area(page, shot) > 0
    page.get_by_role("button", name="Carry", exact=True).click()
    page.get_by_role("checkbox", name="Backdrop match").uncheck()
    expect(page.get_by_text("2 shots will change", exact=False)).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name="Carry", exact=True).click()
    expect(page.get_by_role("button", name="Carried to 2 shots: take it back")).to_be_visible()
    assert area(page, other) < before * 0.99
    page.get_by_role("button", name="Carried to 2 shots: take it back").click()
    expect(page.get_by_text("2 shots as before.")).to_be_visible()
    assert area(page, other) == pytest.approx(before, rel=1e-3)


def test_out_to_a_retoucher_and_back(cut_page: Page, tmp_path: Path) -> None:
    page = cut_page
    shot = shot_of(page, "HT-215")
    before = area(page, shot)
    open_bench(page, "HT-215")
    page.get_by_role("tab", name="Out", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Layers (.ora)").click()
    assert download.value.suggested_filename == "HT-215_front.ora"
    with zipfile.ZipFile(download.value.path()) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    layer = np.array(Image.open(io.BytesIO(files["data/product.png"])))
    layer[:, : layer.shape[1] // 2] = 0
    out = io.BytesIO()
    Image.fromarray(layer).save(out, "PNG")
    files["data/product.png"] = out.getvalue()
    changed = tmp_path / "HT-215_front.ora"
    with zipfile.ZipFile(changed, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    page.get_by_label("File from the retoucher").set_input_files(str(changed))
    expect(page.get_by_text("This cut was made by hand")).to_be_visible(timeout=60_000)
    assert area(page, shot) < 0.8 * before
    page.get_by_role("button", name="The program's own cut again").click()
    expect(page.get_by_text("Out to a retoucher")).to_be_visible(timeout=60_000)
    assert area(page, shot) == pytest.approx(before, rel=0.01)


def test_what_a_product_looks_like_is_said_and_taken(cut_page: Page) -> None:
    """A brush that nobody named in the plan; a product that somebody did follows the plan."""
    page = cut_page
    shoot = re.search(r"/shoots/(\d+)", page.url)
    assert shoot is not None
    page.request.post(f"/api/shoots/{shoot[1]}/products", data={"text": "HT-310"})
    (name, data), *_ = frame_files(codes=["HT-310"]).items()
    sent = {"file": {"name": name, "mimeType": "image/jpeg", "buffer": data}, "kind": "auto"}
    assert page.request.post(f"/api/shoots/{shoot[1]}/frames", multipart=sent).ok
    shot = shot_of(page, "HT-310")
    page.goto(f"/shoots/{shoot[1]}/cut/{shot}")
    expect(page.get_by_text("Looks like: Strands", exact=False)).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Say so").click()
    expect(page.get_by_label("Kind of material").locator("..")).to_contain_text("Strands: hair, bristles, fringe")
    expect(page.get_by_role("button", name="Say so")).to_have_count(0)
    assert page.request.get(f"/api/shots/{shot}").json()["treatment"]["cut"]["material"] == "strands"
    page.goto(f"/shoots/{shoot[1]}/cut/{shot_of(page, 'HT-215')}")
    page.get_by_label("Kind of material").locator("..").click()
    expect(page.get_by_role("option", name="As in the plan (pale)")).to_be_visible()


def test_an_outline_is_drawn_by_keyboard(cut_page: Page) -> None:
    page = cut_page
    shot = shot_of(page, "HT-204")
    before = area(page, shot)
    open_bench(page, "HT-204")
    page.get_by_role("tab", name="Outline").click()
    page.get_by_role("button", name="Draw an outline").click()
    picture = page.get_by_label("The picture: arrows move it")
    picture.focus()
    # Round the upper half: from the middle out to the right, up, and over to the left.
    page.keyboard.press("Space")
    for key, times in (("ArrowRight", 40), ("ArrowUp", 32), ("ArrowLeft", 80), ("ArrowDown", 32)):
        for _ in range(times):
            page.keyboard.press(key)
        page.keyboard.press("Space")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Outline 1", exact=True)).to_be_visible()
    after = area(page, shot)
    assert 0.1 * before < after < 0.8 * before
    page.get_by_label("What outline 1 keeps").locator("..").click()
    page.get_by_role("option", name="drops what is inside it").click()
    expect(page.get_by_text("drops what is inside it")).to_be_visible()
    rest = becomes(page, shot, lambda found: found == pytest.approx(before - after, rel=0.05))
    # It follows the product in the same place; a corner is moved by keyboard, and dragged back by the pointer.
    page.get_by_label("Follows the product").click()
    expect(page.get_by_label("Follows the product")).to_be_checked()
    page.wait_for_timeout(500)
    becomes(page, shot, lambda found: found == pytest.approx(rest, rel=0.02))
    corner = page.get_by_label("Corner 1 of outline 1")
    corner.focus()
    before_move = corner.bounding_box()
    for _ in range(15):
        page.keyboard.press("Shift+ArrowUp")
    page.wait_for_timeout(1200)
    becomes(page, shot, lambda found: found > 1.02 * rest)
    box = corner.bounding_box()
    assert box is not None and before_move is not None
    up = before_move["y"] - box["y"]
    assert up == pytest.approx(150, abs=3)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + up / 2)
    page.mouse.move(x, y + up)
    page.mouse.up()
    becomes(page, shot, lambda found: found == pytest.approx(rest, rel=0.03))
    # What was dropped on purpose is not complained about.
    expect(page.get_by_text("pale edge", exact=False)).to_have_count(0)
    expect(page.get_by_text("beside the product", exact=False)).to_have_count(0)
