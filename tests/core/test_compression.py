"""What a coarse JPEG encoder leaves of even light, told and evened out. The encoder is libjpeg's, as Pillow carries it."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tests.scenes import scene
from true_backdrop.core import pipeline, prepare
from true_backdrop.core.colour import decode_pixels, encode_pixels, srgb_to_linear
from true_backdrop.core.compression import Rounding, evened, rounding_error, rounding_of
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


def _through_jpeg(pixels: np.ndarray, quality: int) -> tuple[np.ndarray, float]:
    """Pixels after the encoder, and the step of a block's mean by the encoder's own table: an eighth of its DC quantizer."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=quality)
    with Image.open(out) as image:
        return np.asarray(image.convert("RGB")), image.quantization[0][0] / 8  # type: ignore[attr-defined]


def _slope(noise: float, height: int = 400, width: int = 600) -> np.ndarray:
    """Light that falls off so gently that a coarse encoder makes a stair of it, (H, W, 3) uint8."""
    y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
    grey = 120 + 50 * x - 25 * y**2 + np.random.default_rng(1).normal(0, noise, (height, width))
    return np.repeat(np.round(grey).astype(np.uint8)[..., None], 3, axis=2)


@pytest.mark.parametrize("quality", [80, 70, 55, 40])
@pytest.mark.parametrize("cropped", [(0, 0), (3, 5)])
def test_the_step_is_the_encoders_own(quality: int, cropped: tuple[int, int]) -> None:
    pixels, step = _through_jpeg(_slope(0.6), quality)
    found = rounding_of(pixels[cropped[0] :, cropped[1] :])
    assert found.step == pytest.approx(step, rel=0.3)
    assert found.hides_grain


@pytest.mark.parametrize("noise", [0.0, 0.6, 3.0])
def test_no_step_is_seen_where_nothing_was_compressed_or_finely(noise: float) -> None:
    pixels = _slope(noise)
    for other in (pixels, _through_jpeg(pixels, 95)[0], pixels.astype(np.uint16) * 257, pixels[:16]):
        assert rounding_of(other) == Rounding()


def test_stairs_are_evened_out_and_edges_stay() -> None:
    true = _slope(0.0)
    true[:, 300:] -= 60
    pixels, step = _through_jpeg(true, 60)
    before, after = (
        encode_pixels(light).astype(float)[..., 1] for light in (decode_pixels(pixels), evened(decode_pixels(pixels), step))
    )
    even = np.r_[20:280, 320:580]
    stairs = [np.abs(np.diff(found[20:-20, even], axis=0)).max() for found in (before, after)]
    assert stairs[1] <= 1 < stairs[0]
    assert np.abs(after - true[..., 1])[20:-20, even].mean() < np.abs(before - true[..., 1])[20:-20, even].mean()
    assert (after[:, 299] - after[:, 300]).mean() == pytest.approx(60, rel=0.05)


@pytest.mark.parametrize("step", [1.0, 3.0])
@pytest.mark.parametrize("grey", [60, 200])
def test_what_rounding_does_to_a_ratio_is_foreseen(step: float, grey: int) -> None:
    """Against two pictures of the same even light whose code values were rounded with steps that lie differently."""
    rng = np.random.default_rng(5)
    codes = np.tile(np.linspace(grey - 4, grey + 4, 400), (100, 1)) + rng.uniform(0, step, (2, 100, 1))
    light = [
        srgb_to_linear((step * np.round(one / step) - shift) / 255)
        for one, shift in zip(codes, codes[:, :, :1] - grey + 4, strict=True)
    ]
    found = rounding_error(np.repeat(light[0][..., None], 3, axis=2).astype(np.float32), step)
    assert np.std(np.log(light[0] / light[1])) == pytest.approx(found, rel=0.2)


def test_bands_of_even_grey_are_no_product() -> None:
    """Frame and backdrop frame are rounded to different steps, so that whole bands are off; no structure is claimed of them."""
    made = scene("disc", (0.6, 0.1, 0.1), size=(600, 900), gain=0.96, seed=3)
    small = [decode_pixels(pixels) * np.float32(0.2) for pixels in (made.frame, made.backdrop)]
    frame, backdrop = (Picture(_through_jpeg(encode_pixels(light), 55)[0], "JPEG") for light in small)
    evidence = pipeline.prepare(frame, backdrop).evidence
    assert evidence.rounding > 0.005 and evidence.structure == 0 and evidence.grain is None
    alpha = pipeline.cut_frame(frame, backdrop, CutSettings())[1].alpha
    assert np.count_nonzero((alpha > 0.02) & (made.alpha == 0)) < 0.04 * np.count_nonzero(made.alpha == 1)
    assert pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence.rounding == 0


def test_a_soft_shadow_is_no_product_however_coarsely_it_was_saved(monkeypatch: pytest.MonkeyPatch) -> None:
    made = scene("disc", (0.6, 0.1, 0.1), size=(600, 900), shadow=0.5, seed=3)
    frame, backdrop = (Picture(_through_jpeg(pixels, 60)[0], "JPEG") for pixels in (made.frame, made.backdrop))

    def left_over() -> float:
        alpha = pipeline.cut_frame(frame, backdrop, CutSettings())[1].alpha
        return float(np.count_nonzero((alpha > 0.02) & (made.alpha == 0)) / np.count_nonzero(made.alpha == 1))

    assert left_over() < 0.03
    monkeypatch.setattr(prepare, "rounding_of", lambda _: Rounding())
    assert left_over() > 0.5
