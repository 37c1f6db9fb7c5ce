"""The blob store and the catalog on a real PostgreSQL."""

from __future__ import annotations

from pathlib import Path

import fsspec
import pytest
from sqlalchemy import text

from tests.scenes import jpeg, scene
from true_backdrop.catalog import frames, runs, shoots, treatments
from true_backdrop.catalog.blobs import BlobStore, digest_of
from true_backdrop.catalog.database import migrate, transaction
from true_backdrop.catalog.errors import BlobMissing, Conflict, Missing, StoreFull
from true_backdrop.catalog.models import RunItem
from true_backdrop.core.product_list import parse_product_list


class TestBlobs:
    """Whole or not at all."""

    def test_bytes_come_back_by_their_digest(self, tmp_path: Path) -> None:
        store = BlobStore(str(tmp_path))
        digest = store.put(b"picture")
        assert digest == digest_of(b"picture")
        assert store.get(digest) == b"picture"
        assert store.put(b"picture") == digest

    def test_other_places_than_a_folder(self) -> None:
        store = BlobStore("memory://blobs-test")
        assert store.get(store.put(b"x" * 1000)) == b"x" * 1000

    def test_what_is_not_there_is_said(self, tmp_path: Path) -> None:
        for digest in ("0" * 64, "../../etc/passwd", "Z" * 64):
            with pytest.raises(BlobMissing):
                BlobStore(str(tmp_path)).get(digest)

    def test_a_full_disk_leaves_no_half_file(self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        """The disk fills while the file is being written: /dev/full's error in the middle of a write."""
        store = BlobStore(str(tmp_path))
        real = fsspec.implementations.local.LocalFileSystem.open

        class Filling:
            def __init__(self, file: object) -> None:
                self.file = file

            def __enter__(self) -> Filling:
                return self

            def __exit__(self, *_: object) -> None:
                self.file.close()

            def write(self, data: bytes) -> None:
                self.file.write(data[: len(data) // 2])
                raise OSError(28, "No space left on device")

        monkeypatch.setattr(
            fsspec.implementations.local.LocalFileSystem,
            "open",
            lambda self, path, mode="rb", **k: Filling(real(self, path, mode, **k)),
        )
        with pytest.raises(StoreFull, match="No space left on device"):
            store.put(b"x" * 100_000)
        assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


@pytest.fixture
def shoot_id(url: str) -> int:
    with transaction(url) as session:
        shoot = shoots.create_shoot(session, "Test shoot", ["front", "side"])
        shoots.add_products(session, shoot.id, parse_product_list("HT-1,Mug\nHT-2,Jug").products)
        return shoot.id


def test_products_make_a_shot_for_each_angle(url: str, shoot_id: int) -> None:
    with transaction(url) as session:
        assert [(s.product.code, s.angle.name) for s in shoots.shots_of(session, shoot_id)] == [
            ("HT-1", "front"),
            ("HT-1", "side"),
            ("HT-2", "front"),
            ("HT-2", "side"),
        ]
        shoots.add_angle(session, shoot_id, "back")
        session.expire_all()
        assert len(shoots.shots_of(session, shoot_id)) == 6
        with pytest.raises(Conflict, match="in this shoot already"):
            shoots.add_angle(session, shoot_id, "Back")


def test_frames_find_their_shots_before_and_after_the_plan(url: str, shoot_id: int, tmp_path: Path) -> None:
    blobs, made = BlobStore(str(tmp_path)), scene()
    with transaction(url) as session:
        frame, fresh = frames.add_frame(session, blobs, shoot_id, frames.check_frame("ht-1_side.jpg", jpeg(made.frame)))
        assert fresh and frame.shot_id is not None
        again, fresh = frames.add_frame(session, blobs, shoot_id, frames.check_frame("ht-1_side copy.jpg", jpeg(made.frame)))
        assert not fresh and again.id == frame.id
        early, _ = frames.add_frame(session, blobs, shoot_id, frames.check_frame("HT-3_front.jpg", jpeg(scene(seed=8).frame)))
        assert early.shot_id is None and frames.waiting_frames(session, shoot_id) == [early]
        shoots.add_products(session, shoot_id, parse_product_list("HT-3,Bell").products)
        session.refresh(early)
        assert early.shot_id is not None
        backdrop, _ = frames.add_frame(session, blobs, shoot_id, frames.check_frame("backdrop.jpg", jpeg(made.backdrop)))
        assert shoots.get_shoot(session, shoot_id).backdrop_id == backdrop.id
    assert blobs.get(frame.sha256) == jpeg(made.frame)


def test_treatments_inherit_and_can_be_taken_back(url: str, shoot_id: int) -> None:
    with transaction(url) as session:
        one, two = shoots.shots_of(session, shoot_id)[:2]
        treatments.set_sections(session, shoot_id, None, {"cut": {"match": 40}})
        treatments.set_sections(session, shoot_id, one.id, {"cut": {"match": 70}})
        assert treatments.treatment_of(session, one).cut.match == 70
        assert treatments.treatment_of(session, two).cut.match == 40
        first = treatments.revisions(session, shoot_id, one.id)[0]
        treatments.set_sections(session, shoot_id, one.id, {"cut": None})
        assert treatments.treatment_of(session, one).cut.match == 40
        treatments.take_back(session, shoot_id, one.id, first.id)
        assert treatments.treatment_of(session, one).cut.match == 70
        treatments.take_back(session, shoot_id, one.id, 0)
        assert treatments.treatment_of(session, one).cut.match == 40
        with pytest.raises(Missing):
            treatments.take_back(session, shoot_id, two.id, first.id)


def test_carrying_leaves_what_was_not_chosen(url: str, shoot_id: int) -> None:
    with transaction(url) as session:
        one, two = shoots.shots_of(session, shoot_id)[:2]
        treatments.set_sections(session, shoot_id, one.id, {"cut": {"match": 70}, "frame": {"coverage": 0.6}})
        assert treatments.carry(session, one, [two.id, one.id], ["cut"])[0] == 1
        carried = treatments.treatment_of(session, two)
        assert (carried.cut.match, carried.frame.coverage) == (70, 0.85)


def test_one_run_at_a_time_and_the_last_item_ends_it(url: str, shoot_id: int) -> None:
    with transaction(url) as session:
        ids = [shot.id for shot in shoots.shots_of(session, shoot_id)][:2]
        run = runs.start_run(session, shoot_id, ids, ["pennywharf"])
        with pytest.raises(Conflict, match="under way"):
            runs.start_run(session, shoot_id, ids, ["pennywharf"])
        runs.stop_run(session, run)
        assert runs.resume_run(session, run) == [item.id for item in run.items]
        for item in run.items:
            runs.finish_item(session, item.id, "no frame" if item.shot_id == ids[1] else None)
        session.refresh(run)
        assert run.state == "done"
        progress = runs.progress_of(session, run)
        assert (progress.total, progress.done, progress.failed) == (2, 1, 1)
        assert runs.problems_of(session, run.id) == {ids[1]: "no frame"}
        assert session.query(RunItem).count() == 2


def test_migrations_can_be_repeated_and_match_the_models(url: str) -> None:
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    from true_backdrop.catalog.database import engine
    from true_backdrop.catalog.models import Base

    migrate(url)
    with engine(url).connect() as connection:
        context = MigrationContext.configure(
            connection, opts={"include_name": lambda name, kind, _: kind != "table" or name in Base.metadata.tables}
        )
        assert compare_metadata(context, Base.metadata) == []
        assert connection.execute(text("select count(*) from outlet where shipped")).scalar() == 3
