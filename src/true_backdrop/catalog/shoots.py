"""Shoots, their products, angles and shots."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session, joinedload

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Angle, Cut, Frame, Product, Rendition, Shoot, Shot
from true_backdrop.core.naming import match_shot
from true_backdrop.core.product_list import ListedProduct


def create_shoot(session: Session, name: str, angles: Sequence[str] = ("front",)) -> Shoot:
    """A new shoot with its angles and no products."""
    shoot = Shoot(name=name)
    shoot.angles = [Angle(position=i, name=angle) for i, angle in enumerate(angles)]
    session.add(shoot)
    session.flush()
    return shoot


def get_shoot(session: Session, shoot_id: int) -> Shoot:
    shoot = session.get(Shoot, shoot_id)
    if shoot is None:
        raise Missing("shoot", shoot_id)
    return shoot


def get_shot(session: Session, shot_id: int) -> Shot:
    shot = session.get(Shot, shot_id)
    if shot is None:
        raise Missing("shot", shot_id)
    return shot


def list_shoots(session: Session) -> Sequence[Shoot]:
    """All shoots, the newest first."""
    return session.scalars(select(Shoot).order_by(Shoot.id.desc())).all()


def shots_of(session: Session, shoot_id: int) -> Sequence[Shot]:
    """The shots of a shoot in the order of the plan, product by product."""
    return session.scalars(
        select(Shot)
        .where(Shot.shoot_id == shoot_id)
        .join(Shot.product)
        .join(Shot.angle)
        .options(joinedload(Shot.product), joinedload(Shot.angle), joinedload(Shot.frame))
        .order_by(Product.position, Product.id, Angle.position)
    ).all()


def add_products(session: Session, shoot_id: int, listed: Iterable[ListedProduct]) -> tuple[int, int]:
    """Add listed products with a shot for each angle; one that is there gets its name and material renewed.

    Returns how many were added and how many renewed. Frames that were waiting for these codes are matched.
    """
    shoot = get_shoot(session, shoot_id)
    known = {product.code.lower(): product for product in shoot.products}
    position = len(shoot.products)
    added = renewed = 0
    for item in listed:
        product = known.get(item.code.lower())
        if product is None:
            product = Product(shoot_id=shoot_id, position=position, code=item.code, name=item.name, material=item.material)
            position += 1
            session.add(product)
            session.flush()
            session.add_all(Shot(shoot_id=shoot_id, product_id=product.id, angle_id=angle.id) for angle in shoot.angles)
            added += 1
        else:
            product.name, product.material = item.name, item.material
            renewed += 1
    session.flush()
    match_waiting_frames(session, shoot_id)
    return added, renewed


def add_angle(session: Session, shoot_id: int, name: str) -> Angle:
    """A further angle, with a shot for each product."""
    shoot = get_shoot(session, shoot_id)
    session.refresh(shoot)
    if any(angle.name.lower() == name.lower() for angle in shoot.angles):
        raise Conflict(f"the angle {name!r} is in this shoot already")
    angle = Angle(shoot_id=shoot_id, position=len(shoot.angles), name=name)
    session.add(angle)
    session.flush()
    session.add_all(Shot(shoot_id=shoot_id, product_id=product.id, angle_id=angle.id) for product in shoot.products)
    session.flush()
    match_waiting_frames(session, shoot_id)
    return angle


def match_waiting_frames(session: Session, shoot_id: int) -> None:
    """Give every unmatched product frame to the shot that its name means, if there is one now."""
    waiting = session.scalars(
        select(Frame).where(Frame.shoot_id == shoot_id, Frame.kind == "product", Frame.shot_id.is_(None)).order_by(Frame.id)
    ).all()
    if not waiting:
        return
    session.expire_all()
    shots = {(shot.product.code, shot.angle.name): shot for shot in shots_of(session, shoot_id)}
    codes, angles = {code for code, _ in shots}, {angle for _, angle in shots}
    for frame in waiting:
        named = match_shot(frame.file_name, codes, angles)
        if named:
            give_frame(session, frame, shots[named.code, named.angle])
    session.flush()


def give_frame(session: Session, frame: Frame, shot: Shot | None) -> None:
    """Make a frame a take of a shot and the chosen one; with None, take it away from its shot."""
    if frame.shot_id is not None and (shot is None or frame.shot_id != shot.id):
        previous = get_shot(session, frame.shot_id)
        if previous.frame_id == frame.id:
            previous.frame_id = session.scalar(
                select(func.max(Frame.id)).where(Frame.shot_id == previous.id, Frame.id != frame.id, Frame.kind == "product")
            )
    frame.shot_id = shot.id if shot else None
    if shot:
        frame.kind = "product"
        shot.frame_id = frame.id
    session.flush()


def latest_cuts(session: Session, shoot_id: int) -> dict[int, Cut]:
    """The newest cut of each shot."""
    newest = (
        select(Cut)
        .join(Shot, Shot.id == Cut.shot_id)
        .where(Shot.shoot_id == shoot_id)
        .ext(distinct_on(Cut.shot_id))
        .order_by(Cut.shot_id, Cut.created_at.desc(), Cut.id.desc())
    )
    return {cut.shot_id: cut for cut in session.scalars(newest)}


def latest_renditions(session: Session, shoot_id: int) -> dict[tuple[int, str], Rendition]:
    """The newest rendition of each shot for each outlet."""
    newest = (
        select(func.max(Rendition.id))
        .join(Shot, Shot.id == Rendition.shot_id)
        .where(Shot.shoot_id == shoot_id)
        .group_by(Rendition.shot_id, Rendition.outlet)
    )
    return {(r.shot_id, r.outlet): r for r in session.scalars(select(Rendition).where(Rendition.id.in_(newest)))}


def guides(session: Session) -> Sequence[tuple[Shoot, Angle, Frame]]:
    """Every angle that has a guide, with its shoot and the guide; the newest shoots first."""
    rows = session.execute(
        select(Shoot, Angle, Frame)
        .join(Angle, Angle.shoot_id == Shoot.id)
        .join(Frame, Frame.id == Angle.guide_id)
        .order_by(Shoot.id.desc(), Angle.position)
    )
    return [(shoot, angle, frame) for shoot, angle, frame in rows]
