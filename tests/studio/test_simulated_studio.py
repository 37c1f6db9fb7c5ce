"""The simulated studio as the program meets it: over the wire, with its faults."""

from __future__ import annotations

import io
import itertools
import tempfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.studio.process import LAYERS
from true_backdrop.core import codec
from true_backdrop.studio.errors import CardFull, DeviceBusy, DeviceGone, StudioError
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.device import SimulatedStudio


def brightness(jpeg: bytes) -> float:
    return float(codec.decode(jpeg, "frame").linear().mean())


def test_a_take_arrives_with_what_it_was_made_with(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.hands({"table": {"code": "HT-204"}})
    studio.set_camera(CameraSettings(iso=200, shutter_s=1 / 250, f_number=8))
    taken = studio.fetch(studio.release())
    assert taken.camera.iso == 200
    image = Image.open(io.BytesIO(taken.data))
    assert image.size == (900, 600)
    exif = image.getexif().get_ifd(0x8769)
    assert (float(exif[0x829A]), float(exif[0x829D]), exif[0x8827]) == pytest.approx((1 / 250, 8.0, 200))
    assert taken.file_name == "TB_00001.jpg"
    assert studio.release() == "TB_00002.jpg"


def test_exposure_and_lamps_change_the_light_as_they_should(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.set_camera(CameraSettings(shutter_s=1 / 500))
    dark = brightness(studio.fetch(studio.release()).data)
    studio.set_camera(CameraSettings(shutter_s=1 / 250))
    assert brightness(studio.fetch(studio.release()).data) == pytest.approx(2 * dark, rel=0.02)
    front, both = [], []
    for lamps, out in ((LampSettings(backdrop=0), front), (LampSettings(), both)):
        studio.set_lamps(lamps)
        out.append(brightness(studio.fetch(studio.release()).data))
    studio.set_lamps(LampSettings(front=0))
    assert front[0] + brightness(studio.fetch(studio.release()).data) == pytest.approx(both[0], rel=0.02)  # light adds


def test_a_seed_repeats_the_noise_of_the_takes_however_long_one_looked() -> None:
    def two_takes(looks: int) -> list[np.ndarray]:
        with tempfile.TemporaryDirectory() as card:
            studio = SimulatedStudio(LAYERS, (60, 90), Path(card), seed=7)
            for _ in range(looks):
                studio.live_frame()
            names = [studio.ask({"do": "release"})[0]["file_name"] for _ in range(2)]
            files = [studio.ask({"do": "download", "file_name": name})[1] for name in names]
        return [codec.decode(file, "take.jpg").pixels for file in files]

    once, again = two_takes(0), two_takes(3)
    np.testing.assert_array_equal(once, again)
    assert not np.array_equal(once[0], once[1])


def test_automatic_focus_strays_on_an_empty_table(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.set_camera(CameraSettings(autofocus=True))
    studio.hands({"table": {"code": "HT-204"}})
    on_product = [studio.fetch(studio.release()).camera.focus_mm for _ in range(2)]
    studio.hands({"table": {"code": None}})
    on_nothing = [studio.fetch(studio.release()).camera.focus_mm for _ in range(2)]
    assert on_product[0] == on_product[1]
    assert on_nothing[0] != on_nothing[1]
    assert min(abs(lost - on_product[0]) for lost in on_nothing) > 50


def test_the_live_view_runs_and_shows_the_table(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    frames = list(itertools.islice(studio.live_view(), 4))
    assert [frame.number for frame in frames] == [1, 2, 3, 4]
    picture = codec.decode(frames[0].jpeg, "live")
    assert (picture.width, picture.height) == (960, 640)
    studio.hands({"table": {"code": "HT-204"}})
    shown = codec.decode(next(studio.live_view()).jpeg, "live")
    assert np.abs(shown.linear() - picture.linear()).mean() > 0.02


def test_faults_are_said_in_sentences(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.hands({"faults": {"card_files": 0}})
    with pytest.raises(CardFull, match="card is full"):
        studio.release()
    studio.hands({"faults": {"card_files": None, "slow_s": 0.1}})
    with pytest.raises(DeviceBusy, match="in time"):
        studio.release()
    with pytest.raises(StudioError, match="has no HT-999"):
        studio.hands({"table": {"code": "HT-999"}})
    with pytest.raises(StudioError, match="cannot do that"):
        studio.hands({"table": {"wings": 2}})
    studio.hands({"faults": {"slow_s": 0.0, "unplugged_s": 0.6}})
    with pytest.raises(DeviceGone, match="cable"):
        studio.status()


def test_it_comes_back_after_the_process_was_killed(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    live = studio.live_view()
    next(live)
    process.kill()
    with pytest.raises(DeviceGone, match="lost"):
        for _ in range(50):
            next(live)
    with pytest.raises(DeviceGone):
        studio.status()
    process.start()
    assert studio.status().name == "Simulated studio"


def test_it_focuses_on_the_point_that_is_shown(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.hands({"table": {"code": "HT-204"}})
    studio.set_camera(CameraSettings(autofocus=True))
    product, wall = studio.focus_at(0.5, 0.55).camera, studio.focus_at(0.5, 0.05).camera
    assert product.focus_mm < wall.focus_mm - 200
    assert not wall.autofocus
    assert studio.status().camera == wall


def test_the_turntable_shows_another_side(process) -> None:  # type: ignore[no-untyped-def]
    studio = process.client()
    studio.hands({"table": {"code": "HT-204", "angle": "spin"}})
    assert studio.status().turntable == 0
    small = (60, 90)  # most of the noise is gone
    views = [codec.decode(studio.fetch(studio.release()).data, "take").linear(size=small)]
    for degrees in (90, 360):
        assert studio.turn_to(degrees).turntable == degrees % 360
        views.append(codec.decode(studio.fetch(studio.release()).data, "take").linear(size=small))
    quarter, whole = (float(np.abs(view - views[0]).mean()) for view in views[1:])
    assert quarter > 4 * whole
