"""A small product, looked at closely, on the desk that the bench asks and in the worker: all of it lies where it is in the frame."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import pytest

from tests.core.test_close_up import HEIGHT, MIDDLE, RADIUS, TRUE, WIDTH, shots, touch
from tests.scenes import jpeg
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.cut_source import CutSource, File
from true_backdrop.core import codec
from true_backdrop.core.cut import region
from true_backdrop.core.picture import Region
from true_backdrop.core.pipeline import UNTOUCHED
from true_backdrop.core.spec import SHIPPED
from true_backdrop.core.treatment import CutSettings, Hands, TouchSettings, Treatment
from true_backdrop.jobs import shot_work
from true_backdrop.web.preview import Asked, PreviewDesk

AROUND = Region(MIDDLE[0] - 100, MIDDLE[1] - 120, MIDDLE[0] + 100, MIDDLE[1] + 120)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> tuple[BlobStore, CutSource, Path]:
    folder = tmp_path_factory.mktemp("blobs")
    blobs = BlobStore(f"file://{folder}")
    frame, empty = (
        File(blobs.put(jpeg(picture.pixels)), name, HEIGHT, WIDTH)
        for picture, name in zip(shots(), ("ring.jpg", "empty.jpg"), strict=True)
    )
    return blobs, CutSource(frame, empty), folder


def asked(source: CutSource, hands: Hands = UNTOUCHED) -> Asked:
    return Asked(source, CutSettings(), hands)


def matte(data: bytes) -> np.ndarray:
    return codec.decode(data, "look.jpg").pixels[..., 0].astype(float) / 255


def test_every_look_shows_it_where_it_is(files: tuple[BlobStore, CutSource, Path]) -> None:
    blobs, source, _ = files
    desk = PreviewDesk(blobs, 4)
    assert desk.prepared(asked(source)).close is not None
    whole = matte(desk.look(asked(source), "matte", 1000, 0.7))
    expected = cv2.resize(TRUE.astype(np.float32), whole.shape[::-1], interpolation=cv2.INTER_AREA)
    assert np.abs(whole - expected).sum() < 0.05 * expected.sum()
    near = matte(desk.look_close(asked(source), "matte", AROUND, 0.7))
    assert np.abs(near - TRUE[AROUND.slices]).sum() < 0.03 * TRUE.sum()
    # The shadow lies below it, on white and in the view of its own.
    for name in ("white", "shadow"):
        shade = codec.decode(desk.look_close(asked(source), name, AROUND, 1.0), "look.jpg").pixels.mean(axis=-1)
        assert shade[100 + RADIUS + 6, 120] < 245
        assert shade[4].min() > 250
    assert desk.seems(asked(source)) == "solid"


def test_the_cut_that_leaves_is_the_one_that_was_seen(files: tuple[BlobStore, CutSource, Path]) -> None:
    blobs, source, _ = files
    desk = PreviewDesk(blobs, 4)
    cut = desk.whole(asked(source))[2]
    assert np.abs(cut.alpha - TRUE).sum() < 0.03 * TRUE.sum()
    square = desk.square(asked(source), Treatment(), SHIPPED["kiosk-nine"])
    assert square is not None
    dark = square.mean(axis=-1) < 200
    rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
    assert np.ptp(rows) / len(square) == pytest.approx(0.85, abs=0.02)
    assert (rows[0] + rows[-1]) / 2 == pytest.approx((columns[0] + columns[-1]) / 2, abs=8)


def test_touches_one_after_the_other_and_one_far_away(files: tuple[BlobStore, CutSource, Path]) -> None:
    """The one far away lies outside of what is looked at closely; all of them hold, and taking it back brings the close look."""
    blobs, source, _ = files
    desk = PreviewDesk(blobs, 4)
    first = touch((MIDDLE[0], MIDDLE[1] + 52), width_px=30, reach=0.02).touches.strokes
    far = touch((300, 400), kind="product", width_px=60, reach=0.01).touches.strokes
    one, both = (asked(source, Hands(touches=TouchSettings(strokes=strokes))) for strokes in (first, first + far))
    seen = [matte(desk.look(each, "matte", 1000, 0.7)) for each in (one, both, one)]
    at, other = (
        (round(300 * 1000 / WIDTH), round(400 * 1000 / WIDTH)),
        (round(MIDDLE[0] * 1000 / WIDTH), round((MIDDLE[1] + 52) * 1000 / WIDTH)),
    )
    assert [round(float(each[other])) for each in seen] == [0, 0, 0]
    assert desk.decision(both).outline.covers is None
    assert bool(desk.decision(both).outline.product[round(300 * 1024 / WIDTH), round(400 * 1024 / WIDTH)])
    assert np.array_equal(seen[0], seen[2])
    assert seen[0][at] == 0


def test_a_match_that_several_others_need_is_decided_once(
    files: tuple[BlobStore, CutSource, Path], monkeypatch: pytest.MonkeyPatch
) -> None:
    """While a control moves, each value is another one; what completes the product is mostly the same."""
    blobs, source, _ = files
    desk, decided, decide = PreviewDesk(blobs, 4), list[float](), region.decide
    desk.look(asked(source), "matte", 1000, 0.7)
    monkeypatch.setattr(region, "parts_going_on", lambda _, product, __, at_match: product & at_match(83))
    monkeypatch.setattr(
        region, "decide", lambda evidence, match, *rest: (decided.append(match), decide(evidence, match, *rest))[1]
    )
    for match in (41, 43, 41):
        desk.look(Asked(source, CutSettings(match=match), UNTOUCHED), "matte", 1000, 0.7)
    assert decided == [41, 83, 43]


def test_a_first_look_reads_all_of_its_pixels(files: tuple[BlobStore, CutSource, Path]) -> None:
    """A frame that fills the screen may be read smaller; one with a small product in it may not."""
    blobs, source, folder = files
    task = shot_work.ShotTask(1, 1, source, None, Treatment(), ())
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("TRUE_BACKDROP_BLOB_URL", f"file://{folder}")
        shot_work.settings.cache_clear()
        assert codec.decode(blobs.get(source.frame.sha256), "ring.jpg", at_least=1024).width < WIDTH
        made = shot_work._made(blobs, task, 1024)
    shot_work.settings.cache_clear()
    assert (made.frame.height, made.frame.width) == (HEIGHT, WIDTH)
    assert made.prepared.close is not None
