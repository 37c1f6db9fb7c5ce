"""Load the demo shoot: `python -m demo.seed`. Does nothing when it is there."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from PIL import Image
from sqlalchemy import select

from true_backdrop.catalog import frames, runs, shoots, spins
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import transaction
from true_backdrop.catalog.models import Shoot
from true_backdrop.core.codec import srgb_profile
from true_backdrop.core.product_list import parse_product_list
from true_backdrop.core.spec import SHIPPED
from true_backdrop.jobs.queue import defer_items
from true_backdrop.settings import settings
from true_backdrop.studio.simulated.layers import Shutter, exposed, read_layer

HERE = Path(__file__).parent
ANGLES = ("front", "turned", "above")
LAYERS = HERE / "layers" / "front"
SHOOT = "Harrow & Tide, autumn list"
#: A second shoot with nothing shot yet, for the table.
TO_SHOOT = "Harrow & Tide, at the table"
TO_SHOOT_CODES = ("HT-204", "HT-215", "HT-101", "HT-226", "HT-619", "HT-402", "HT-118", "HT-310")
#: One of them is known from all sides: name of the spin, positions, product.
SPIN = ("spin", 24, "HT-204")


def jpeg(pixels: np.ndarray) -> bytes:
    """A frame as a camera would store it."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=95, subsampling=0, icc_profile=srgb_profile())
    return out.getvalue()


def frame_files(shutter: Shutter | None = None, codes: list[str] | None = None) -> dict[str, bytes]:
    """The demo's frames under their file names: one for each product, and `backdrop.jpg`."""
    shutter = shutter or Shutter()
    out = {}
    for name in codes or sorted(path.name[:6] for path in LAYERS.glob("HT-*_front.jxl")):
        rng = np.random.default_rng(int(name[3:]))
        out[f"{name}_front.jpg"] = jpeg(
            exposed(read_layer(LAYERS / f"{name}_front.jxl"), read_layer(LAYERS / f"{name}_backdrop.jxl"), shutter, rng)
        )
    rng = np.random.default_rng(1)
    out["backdrop.jpg"] = jpeg(
        exposed(read_layer(LAYERS / "empty_front.jxl"), read_layer(LAYERS / "empty_backdrop.jxl"), shutter, rng)
    )
    return out


def main() -> None:
    url = settings().database_url.get_secret_value()
    with transaction(url) as session:
        if session.scalar(select(Shoot).where(Shoot.name == SHOOT)) is not None:
            return
    blobs = BlobStore(settings().blob_url)
    with transaction(url) as session:
        shoot = shoots.create_shoot(session, SHOOT)
        listed = parse_product_list((HERE / "products.csv").read_text(encoding="utf-8"))
        shoots.add_products(session, shoot.id, listed.products)
        for name, data in frame_files().items():
            frames.add_frame(session, blobs, shoot.id, frames.check_frame(name, data))
        session.flush()
        run = runs.start_run(session, shoot.id, runs.runnable_shots(session, shoot.id), list(SHIPPED))
        defer_items(session, runs.waiting_items(session, run.id))
        at_table = shoots.create_shoot(session, TO_SHOOT, [name for name in ANGLES if (LAYERS.parent / name).is_dir()])
        shoots.add_products(session, at_table.id, [item for item in listed.products if item.code in TO_SHOOT_CODES])
        name, positions, code = SPIN
        spins.add_spin(session, at_table.id, name, positions, [code])
    print(f"the demo shoot is loaded: {SHOOT}")


if __name__ == "__main__":
    main()
