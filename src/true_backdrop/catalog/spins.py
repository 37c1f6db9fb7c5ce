"""Spins: an angle for each position of the turntable, under one name."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Angle, Product, Shot
from true_backdrop.catalog.shoots import get_shoot, match_waiting_frames


def add_spin(session: Session, shoot_id: int, name: str, positions: int, codes: Sequence[str]) -> list[Angle]:
    """Angles `name-01` ... for a full turn in equal steps, with shots for these products (all when none are named)."""
    shoot = get_shoot(session, shoot_id)
    session.refresh(shoot)
    if any(angle.name.lower() == name.lower() or (angle.spin or "").lower() == name.lower() for angle in shoot.angles):
        raise Conflict(f"there is an angle or a spin {name!r} in this shoot already")
    wanted = {code.lower() for code in codes}
    products = [product for product in shoot.products if not wanted or product.code.lower() in wanted]
    missing = wanted - {product.code.lower() for product in products}
    if missing:
        raise Conflict(f"there is no product {', '.join(sorted(missing)).upper()} in this shoot")
    digits = max(2, len(str(positions)))
    first = len(shoot.angles)
    angles = [
        Angle(
            shoot_id=shoot_id,
            position=first + k,
            name=f"{name}-{k + 1:0{digits}d}",
            spin=name,
            degrees=round(360 * k / positions, 3),
        )
        for k in range(positions)
    ]
    session.add_all(angles)
    session.flush()
    session.add_all(Shot(shoot_id=shoot_id, product_id=p.id, angle_id=angle.id) for p in products for angle in angles)
    session.flush()
    match_waiting_frames(session, shoot_id)
    return angles


def spin_shots(session: Session, shoot_id: int, code: str, spin: str) -> Sequence[Shot]:
    """The shots of one product's spin in the order of the positions; raises Missing when there are none."""
    shots = session.scalars(
        select(Shot)
        .join(Shot.product)
        .join(Shot.angle)
        .where(Shot.shoot_id == shoot_id, Product.code == code, Angle.spin == spin)
        .options(joinedload(Shot.angle), joinedload(Shot.product))
        .order_by(Angle.position)
    ).all()
    if not shots:
        raise Missing(f"spin {spin} of {code}", shoot_id)
    return shots
