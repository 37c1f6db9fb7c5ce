"""A focus series merged, against the same scene rendered sharp from front to back."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from skimage.metrics import peak_signal_noise_ratio, structural_similarity

from tests.studio.process import LAYERS
from true_backdrop.core.exposure import focus_steps
from true_backdrop.core.focus import SlicesDoNotFit, lay_together, merge_slices
from true_backdrop.core.picture import Picture
from true_backdrop.core.registration import Similarity
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.scene import FOCAL_MM, Focus, Scenery, Table, breathing
from true_backdrop.studio.simulated.sensor import exposed

F_NUMBER, SHUTTER_S = 4.0, 1 / 945
#: So far stopped down that nothing is blurred.
ALL_SHARP = 2000.0


class Series:
    """Slices of a table (640 x 960), and what an ideal camera would see where the middle one stands."""

    def __init__(self, table: Table) -> None:
        scenery, rng = Scenery(LAYERS, (640, 960)), np.random.default_rng(8)
        scene = scenery.seen(table)
        near, far = np.percentile(scene.depth[scene.covered > 0.5], [1, 99])
        self.focused = focus_steps(float(FOCAL_MM), F_NUMBER, float(near), float(far))
        self.middle = len(self.focused) // 2

        def seen(f_number: float, focus_mm: float) -> np.ndarray:
            light = scenery.gathered(table, Focus(f_number, focus_mm), LampSettings(), 0.0)
            return exposed(light, CameraSettings(f_number=F_NUMBER, shutter_s=SHUTTER_S), rng)

        self.slices = [Picture(seen(F_NUMBER, focus_mm), "JPEG") for focus_mm in self.focused]
        self.sharp = seen(ALL_SHARP, self.focused[self.middle])
        top, left = (int(np.flatnonzero((scene.covered > 0.02).any(axis=axis))[0]) for axis in (1, 0))
        bottom, right = (int(np.flatnonzero((scene.covered > 0.02).any(axis=axis))[-1]) for axis in (1, 0))
        self.product = slice(top, bottom), slice(left, right)

    def scores(self, pixels: np.ndarray) -> tuple[float, float]:
        """PSNR in dB and SSIM (Wang et al. 2004) where the product is, as scikit-image computes them."""
        one, other = self.sharp[self.product], pixels[self.product]
        return float(peak_signal_noise_ratio(one, other)), float(structural_similarity(one, other, channel_axis=2))


def sharpest_pixels(slices: list[Picture], laid: list[Similarity]) -> np.ndarray:
    """The plain way: each pixel from the slice with the largest Laplacian around it."""
    size = slices[0].width, slices[0].height
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    stack = np.stack(
        [
            cv2.warpAffine(one.pixels, where.matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
            for one, where in zip(slices, laid, strict=True)
        ]
    )
    detail = [
        np.abs(cv2.Laplacian(cv2.cvtColor(one, cv2.COLOR_RGB2GRAY).astype(np.float32), cv2.CV_32F, ksize=3)) for one in stack
    ]
    best = np.argmax([cv2.GaussianBlur(one, (0, 0), 2.0) for one in detail], axis=0)
    return np.take_along_axis(stack, best[None, ..., None], axis=0)[0]


@pytest.fixture(scope="module", params=[("HT-204", "above"), ("HT-402", "front")], ids=lambda p: p[0])
def series(request: pytest.FixtureRequest) -> Series:
    code, angle = request.param
    return Series(Table(code, angle))


def test_the_merge_is_nearer_to_all_in_focus_than_the_sharpest_pixels_are(series: Series) -> None:
    merged = series.scores(merge_slices(series.slices, series.middle).pixels)
    unlaid = series.scores(sharpest_pixels(series.slices, [Similarity()] * len(series.slices)))
    # Even when the plain way is given our alignment.
    laid = series.scores(sharpest_pixels(series.slices, lay_together(series.slices, series.middle)))
    single = series.scores(series.slices[series.middle].pixels)
    assert merged[0] > max(laid[0], unlaid[0], single[0])
    assert merged[1] > max(laid[1], unlaid[1], single[1])


def test_breathing_is_found(series: Series) -> None:
    found = merge_slices(series.slices, series.middle).breathing
    true = [breathing(mm) / breathing(series.focused[series.middle]) for mm in series.focused]
    assert found == pytest.approx(true, abs=6e-4)
    assert max(true) - min(true) > 0.005


def test_strips_leave_no_seam(series: Series, monkeypatch: pytest.MonkeyPatch) -> None:
    slices = series.slices[series.middle - 1 : series.middle + 1]
    in_strips = merge_slices(slices, 0).pixels
    monkeypatch.setattr("true_backdrop.core.focus._STRIP", 4096)
    whole = merge_slices(slices, 0).pixels
    assert np.abs(in_strips.astype(int) - whole).max() <= 1


def test_slices_of_equal_focus_stay_as_they_are(series: Series) -> None:
    one = series.slices[series.middle]
    assert np.abs(merge_slices([one, one, one]).pixels.astype(int) - one.pixels).max() <= 1


def test_a_merge_keeps_16_bit(series: Series) -> None:
    deep = [Picture(one.pixels.astype(np.uint16) * 257, "TIFF") for one in series.slices[series.middle - 1 : series.middle + 2]]
    merged = merge_slices(deep).pixels
    assert merged.dtype == np.uint16
    shallow = merge_slices(series.slices[series.middle - 1 : series.middle + 2]).pixels
    assert np.abs(merged / 257 - shallow).max() <= 1


def test_what_cannot_be_merged_says_so(series: Series) -> None:
    one = series.slices[0]
    with pytest.raises(SlicesDoNotFit, match="two slices"):
        merge_slices([one])
    with pytest.raises(SlicesDoNotFit, match="differ in size"):
        merge_slices([one, Picture(one.pixels[:-2], "JPEG")])
    other = Picture(np.ascontiguousarray(one.pixels[::-1]), "JPEG")
    with pytest.raises(SlicesDoNotFit, match=r"slice 1 of 2.*moved"):
        merge_slices([other, one])
