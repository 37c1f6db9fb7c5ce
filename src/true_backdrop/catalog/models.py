"""Rows of the catalog. Every constraint has a name, so that its violation can be given a meaning."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, CheckConstraint, DateTime, Float, ForeignKey, Index, MetaData, String, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: DateTime(timezone=True), dict[str, Any]: JSONB, list[Any]: JSONB}


class Shoot(Base):
    """One job for one client. What is expected next at the table decides where a file of the watched folder goes."""

    __tablename__ = "shoot"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    created_at: Mapped[datetime] = mapped_column(default=now)
    backdrop_id: Mapped[int | None] = mapped_column(ForeignKey("frame.id", use_alter=True, name="fk_shoot_backdrop"))
    watched_folder: Mapped[str | None] = mapped_column(String(500))
    expected_shot_id: Mapped[int | None] = mapped_column(
        ForeignKey("shot.id", ondelete="SET NULL", use_alter=True, name="fk_shoot_expected_shot")
    )
    expected_kind: Mapped[str] = mapped_column(String(10), default="product")

    products: Mapped[list[Product]] = relationship(order_by="Product.position", cascade="all, delete-orphan")
    angles: Mapped[list[Angle]] = relationship(order_by="Angle.position", cascade="all, delete-orphan")


class Product(Base):
    __tablename__ = "product"
    __table_args__ = (UniqueConstraint("shoot_id", "code", name="uq_product_code_in_shoot"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    position: Mapped[int]
    code: Mapped[str] = mapped_column(String(60))
    name: Mapped[str] = mapped_column(String(200))
    material: Mapped[str] = mapped_column(String(20), default="auto")


class Angle(Base):
    """From where. `guide_id` is the take that the next product is lined up with.

    A spin is as many angles as it has positions: each has the spin's name and the degrees that its turntable stands at.
    Where only the product is turned, the camera stands as for another angle.
    """

    __tablename__ = "angle"
    __table_args__ = (UniqueConstraint("shoot_id", "name", name="uq_angle_name_in_shoot"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    position: Mapped[int]
    name: Mapped[str] = mapped_column(String(60))
    guide_id: Mapped[int | None] = mapped_column(
        ForeignKey("frame.id", ondelete="SET NULL", use_alter=True, name="fk_angle_guide")
    )
    spin: Mapped[str | None] = mapped_column(String(50))
    degrees: Mapped[float | None]
    stands_as_id: Mapped[int | None] = mapped_column(ForeignKey("angle.id", ondelete="SET NULL", name="fk_angle_stands_as"))

    @property
    def view(self) -> str:
        """Equal for all angles that see the same empty set: the camera stands alike, so one backdrop frame serves them."""
        if self.stands_as_id is not None:
            return f"angle {self.stands_as_id}"
        return f"spin {self.spin}" if self.spin else f"angle {self.id}"


class Shot(Base):
    """One product at one angle. `frame_id` is the chosen take."""

    __tablename__ = "shot"
    __table_args__ = (
        UniqueConstraint("product_id", "angle_id", name="uq_shot_product_angle"),
        Index("ix_shot_shoot_id", "shoot_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    angle_id: Mapped[int] = mapped_column(ForeignKey("angle.id", ondelete="CASCADE"))
    frame_id: Mapped[int | None] = mapped_column(
        ForeignKey("frame.id", ondelete="SET NULL", use_alter=True, name="fk_shot_frame")
    )

    skipped: Mapped[bool] = mapped_column(default=False)
    #: Key of the cut that a person looked at and found good.
    accepted_key: Mapped[str | None] = mapped_column(String(64))

    product: Mapped[Product] = relationship()
    angle: Mapped[Angle] = relationship()
    frame: Mapped[Frame | None] = relationship(foreign_keys=[frame_id])


class Frame(Base):
    """An original as it came: never changed. `shot_id` is None while it is not matched to a shot.

    `backlit` is the empty set in the light of a silhouette; `matte` and `retouched` came back from a retoucher.
    A backdrop frame may be of one angle; `made_with` holds camera and lamp settings where the camera told them.
    """

    __tablename__ = "frame"
    __table_args__ = (
        CheckConstraint("kind in ('product', 'backdrop', 'silhouette', 'slice', 'backlit', 'matte', 'retouched')", name="kind"),
        UniqueConstraint("shoot_id", "sha256", name="uq_frame_bytes_in_shoot"),
        Index("ix_frame_shot_id", "shot_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    shot_id: Mapped[int | None] = mapped_column(ForeignKey("shot.id", ondelete="SET NULL"))
    kind: Mapped[str] = mapped_column(String(10))
    file_name: Mapped[str] = mapped_column(String(255))
    sha256: Mapped[str] = mapped_column(String(64))
    format: Mapped[str] = mapped_column(String(10))
    width: Mapped[int]
    height: Mapped[int]
    bytes: Mapped[int] = mapped_column(BigInteger)
    source_profile: Mapped[str | None] = mapped_column(String(200))
    preview_sha256: Mapped[str] = mapped_column(String(64))
    angle_id: Mapped[int | None] = mapped_column(ForeignKey("angle.id", ondelete="SET NULL", use_alter=True))
    made_with: Mapped[dict[str, Any] | None]
    series_id: Mapped[int | None] = mapped_column(ForeignKey("focus_series.id", ondelete="SET NULL", use_alter=True))
    created_at: Mapped[datetime] = mapped_column(default=now)


class FocusSeries(Base):
    """One shot focused from near to far: `steps` are the distances (mm), slices are frames, merged they are a take.

    Slices and the merged frame have this series' id. `reference` is the number of the slice that the merged frame lies like.
    """

    __tablename__ = "focus_series"
    __table_args__ = (CheckConstraint("state in ('shooting', 'merging', 'done', 'failed')", name="state"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id", ondelete="CASCADE"))
    steps: Mapped[list[Any]]
    state: Mapped[str] = mapped_column(String(10), default="shooting")
    problem: Mapped[str | None] = mapped_column(String(1000))
    created_at: Mapped[datetime] = mapped_column(default=now)

    @property
    def reference(self) -> int:
        return len(self.steps) // 2


class TakenFile(Base):
    """The ledger of watched folders: a state of a file that has been dealt with, and what was wrong with it."""

    __tablename__ = "taken_file"
    __table_args__ = (UniqueConstraint("shoot_id", "name", "size", "mtime_ns", name="uq_taken_file_stamp"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(255))
    size: Mapped[int] = mapped_column(BigInteger)
    mtime_ns: Mapped[int] = mapped_column(BigInteger)
    frame_id: Mapped[int | None] = mapped_column(ForeignKey("frame.id", ondelete="SET NULL"))
    problem: Mapped[str | None] = mapped_column(String(1000))
    created_at: Mapped[datetime] = mapped_column(default=now)


class TreatmentRevision(Base):
    """Settings at one moment. Of a shoot (`shot_id` None: every section) or of a shot (only what differs).

    Revisions of several shots that were made by one act share a `batch`, so that they are taken back by one. One that only
    takes an earlier one up again `stands_for` it (0 for the defaults), so that undoing goes on from there.
    """

    __tablename__ = "treatment_revision"
    __table_args__ = (Index("ix_treatment_revision_scope", "shoot_id", "shot_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    shot_id: Mapped[int | None] = mapped_column(ForeignKey("shot.id", ondelete="CASCADE"))
    sections: Mapped[dict[str, Any]]
    said: Mapped[str] = mapped_column(String(200), default="")
    batch: Mapped[str | None] = mapped_column(String(32))
    stands_for: Mapped[int | None]
    created_at: Mapped[datetime] = mapped_column(default=now)


class Cut(Base):
    """What was decided for a shot: backdrop match, verdict, and how other values would have done.

    `places` are where doubt is; `levels_sha256` is the picture that tells the product at every backdrop match.
    """

    __tablename__ = "cut"
    __table_args__ = (UniqueConstraint("shot_id", "key", name="uq_cut_shot_key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(64))
    match: Mapped[int]
    proposed: Mapped[int]
    verdict: Mapped[str] = mapped_column(String(12))
    reasons: Mapped[list[Any]]
    doubt: Mapped[float] = mapped_column(Float)
    trials: Mapped[list[Any]]
    matte_sha256: Mapped[str | None] = mapped_column(String(64))
    square_sha256: Mapped[str | None] = mapped_column(String(64))
    freshness: Mapped[list[Any]] = mapped_column(default=list)
    estimated: Mapped[bool] = mapped_column(default=False)
    places: Mapped[list[Any]] = mapped_column(default=list)
    levels_sha256: Mapped[str | None] = mapped_column(String(64))
    cutout_sha256: Mapped[str | None] = mapped_column(String(64))
    hand_made: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(default=now)


class SetUp(Base):
    """Camera and lamp settings and the framing box under a name, to be recalled another day."""

    __tablename__ = "setup"
    __table_args__ = (UniqueConstraint("name", name="uq_setup_name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    camera: Mapped[dict[str, Any]]
    lamps: Mapped[dict[str, Any]]
    framing: Mapped[dict[str, Any] | None]
    locked: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(default=now)


class Outlet(Base):
    """A place where pictures are sold, with its spec as JSON."""

    __tablename__ = "outlet"

    name: Mapped[str] = mapped_column(String(41), primary_key=True)
    title: Mapped[str] = mapped_column(String(80))
    spec: Mapped[dict[str, Any]]
    shipped: Mapped[bool] = mapped_column(default=False)


class Rendition(Base):
    """A finished picture for one outlet, as bytes in the blob store, with its audit."""

    __tablename__ = "rendition"
    __table_args__ = (UniqueConstraint("shot_id", "outlet", "key", name="uq_rendition_shot_outlet_key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id", ondelete="CASCADE"))
    outlet: Mapped[str] = mapped_column(ForeignKey("outlet.name", ondelete="CASCADE"))
    key: Mapped[str] = mapped_column(String(64))
    sha256: Mapped[str] = mapped_column(String(64))
    bytes: Mapped[int] = mapped_column(BigInteger)
    quality: Mapped[int | None]
    passed: Mapped[bool]
    findings: Mapped[list[Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class Run(Base):
    """One pass over shots of a shoot: cut and finish for some outlets."""

    __tablename__ = "run"
    __table_args__ = (CheckConstraint("state in ('running', 'stopped', 'done')", name="state"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    state: Mapped[str] = mapped_column(String(10), default="running")
    outlets: Mapped[list[Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)
    resumed_at: Mapped[datetime] = mapped_column(default=now)

    items: Mapped[list[RunItem]] = relationship(order_by="RunItem.id", cascade="all, delete-orphan")


class RunItem(Base):
    """One shot of a run. `key` is what the result was made from, so that nothing is made twice."""

    __tablename__ = "run_item"
    __table_args__ = (
        UniqueConstraint("run_id", "shot_id", name="uq_run_item_run_shot"),
        CheckConstraint("state in ('waiting', 'done', 'failed')", name="state"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id", ondelete="CASCADE"))
    shot_id: Mapped[int] = mapped_column(ForeignKey("shot.id", ondelete="CASCADE"))
    state: Mapped[str] = mapped_column(String(10), default="waiting")
    problem: Mapped[str | None] = mapped_column(String(1000))
    finished_at: Mapped[datetime | None]


class Delivery(Base):
    """Files laid out for an outlet, and what they were."""

    __tablename__ = "delivery"

    id: Mapped[int] = mapped_column(primary_key=True)
    shoot_id: Mapped[int] = mapped_column(ForeignKey("shoot.id", ondelete="CASCADE"))
    outlet: Mapped[str] = mapped_column(ForeignKey("outlet.name", ondelete="CASCADE"))
    folder: Mapped[str] = mapped_column(String(500))
    files: Mapped[list[Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)
