"""A focus series that is complete becomes a take."""

from __future__ import annotations

import logging
from pathlib import Path

import imagecodecs
from sqlalchemy.exc import InterfaceError, OperationalError

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce, transaction
from true_backdrop.catalog.frames import add_frame, check_frame
from true_backdrop.catalog.series import get_series, slices_of
from true_backdrop.catalog.shoots import get_shot
from true_backdrop.catalog.taking import place_take
from true_backdrop.core import codec
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.core.exif import exif_of, png_with_exif
from true_backdrop.core.focus import merge_slices
from true_backdrop.jobs.whole_frames import for_whole_frames
from true_backdrop.settings import settings

log = logging.getLogger("true_backdrop.worker")


def merge_series(series_id: int) -> list[int]:
    """Merge a series' slices; the merged frame is a take of its shot. Returns the shots to be looked at.

    Done twice it changes nothing. What cannot be merged is said on the series; its slices stay.
    """
    for_whole_frames()
    url, blobs = settings().database_url.get_secret_value(), BlobStore(settings().blob_url)
    with transaction(url) as session:
        series = get_series(session, series_id)
        if series.state != "merging":
            return []
        files = [(frame.sha256, frame.file_name, frame.made_with) for frame in slices_of(session, series_id)]
        reference, shot_id, shoot_id = series.reference, series.shot_id, series.shoot_id
    try:
        data = [blobs.get(digest) for digest, _, _ in files]
        slices = [codec.decode(each, name) for each, (_, name, _) in zip(data, files, strict=True)]
        merged = merge_slices(slices, reference)
        png = png_with_exif(bytes(imagecodecs.png_encode(merged.pixels, level=1)), exif_of(data[reference]))
        del slices
        checked = check_frame(f"{Path(files[reference][1]).stem}_merged.png", png)
    except (OperationalError, InterfaceError):
        raise
    except TrueBackdropError as fault:
        return _failed(url, series_id, str(fault))
    except Exception:
        log.exception("focus series %s could not be merged", series_id, extra={"action": "merge_series"})
        return _failed(
            url, series_id, "a fault in the program kept this series from being merged; the worker's log has the details"
        )
    with transaction(url) as session:
        series = get_series(session, series_id)
        about = {**(files[reference][2] or {}), "focus_series": {"steps_mm": series.steps, "breathing": list(merged.breathing)}}
        frame, _ = add_frame(session, blobs, shoot_id, checked, kind="product", made_with=about, match=False)
        frame.series_id = series_id
        looks = place_take(session, frame, get_shot(session, shot_id), "product")
        series.state = "done"
        announce(session, shoot_id, "frames")
    return looks


def _failed(url: str, series_id: int, problem: str) -> list[int]:
    with transaction(url) as session:
        series = get_series(session, series_id)
        series.state, series.problem = "failed", problem
        announce(session, series.shoot_id, "series")
    return []
