"""What else should be shot while the product, or the empty set, is there."""

from __future__ import annotations

from true_backdrop.catalog.models import Shot
from true_backdrop.web import studio_models
from true_backdrop.web.present import ShootView

#: Materials whose outline a silhouette tells best.
_HARD = frozenset({"strands", "pale"})


def proposal_for(view: ShootView, shot: Shot) -> studio_models.Proposal | None:
    """A backdrop frame or a silhouette frame that should be shot now, or None.

    The empty set: when no backdrop frame of this angle fits its takes, or one has gone stale. A silhouette: when the cut
    of the shot's take is in doubt, or its product is of a kind that a silhouette tells best. The empty set in the light of
    silhouettes: when there are some and it was not shot.
    """
    return _empty_set(view, shot) or _silhouette(view, shot) or _backlit(view, shot)


def _empty_set(view: ShootView, shot: Shot) -> studio_models.Proposal | None:
    taken = [one for one in view.shots if one.frame_id is not None and one.angle.view == shot.angle.view]
    if view.backdrops.of(shot) is None:
        if not taken:
            return None
        takes = f"{len(taken)} {'take' if len(taken) == 1 else 'takes'} of {shot.angle.name}"
        said = f"{takes} cut against a guessed backdrop: clear the table and shoot the empty set"
        return studio_models.Proposal(kind="backdrop", said=said)
    stale = [
        found["said"]
        for one in taken
        if view.cut_holds(one)
        for found in view.cuts[one.id].freshness
        if found["state"] == "shoot again" and found["what"] != "light"
    ]
    return studio_models.Proposal(kind="backdrop", said=stale[-1]) if stale else None


def _backlit(view: ShootView, shot: Shot) -> studio_models.Proposal | None:
    dark = [one for one in view.shots if one.angle.view == shot.angle.view and view.sources.has_silhouette(one)]
    if not dark or view.sources.has_empty_silhouette(shot):
        return None
    shots = f"{len(dark)} {'silhouette' if len(dark) == 1 else 'silhouettes'} from {shot.angle.name}"
    said = f"{shots} held against a guessed backdrop: clear the table and shoot the empty set in that light"
    return studio_models.Proposal(kind="backlit", said=said)


def _silhouette(view: ShootView, shot: Shot) -> studio_models.Proposal | None:
    if shot.frame is None or view.sources.has_silhouette(shot):
        return None
    cut = view.cuts.get(shot.id)
    why = []
    if cut is not None and view.cut_holds(shot) and cut.verdict != "clean":
        why.append("this cut is in doubt")
    if shot.product.material in _HARD:
        why.append(f"{shot.product.material} outlines are told best by a silhouette")
    if not why:
        return None
    return studio_models.Proposal(kind="silhouette", said=f"{', and '.join(why)}: shoot one while the product stands as it is")
