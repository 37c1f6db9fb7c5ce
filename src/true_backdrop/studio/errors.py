"""What goes wrong with devices, as sentences for the photographer."""

from __future__ import annotations

from true_backdrop.core.errors import TrueBackdropError


class StudioError(TrueBackdropError):
    """Something outside did not do as it was asked."""


class DeviceGone(StudioError):
    """The connection is lost; it may come back by itself."""


class DeviceBusy(StudioError):
    """It did not answer in time."""


class CardFull(StudioError):
    """There is no room on the camera's card."""


#: By the word that travels on the wire.
BY_WORD: dict[str, type[StudioError]] = {
    "gone": DeviceGone,
    "busy": DeviceBusy,
    "card_full": CardFull,
    "refused": StudioError,
}


def word_for(fault: StudioError) -> str:
    return next((word for word, kind in BY_WORD.items() if type(fault) is kind), "refused")
