"""Settings as a room beside the others: made when it is first wanted."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from maglia.app.desk import Desk
from maglia.app.rooms.room import Offered, Room

if TYPE_CHECKING:
    from maglia.app.rooms.settings.page import SettingsRoom


def made(desk: Desk, offers: Callable[[str], list[Offered]]) -> SettingsRoom:
    from maglia.app.rooms.settings.page import SettingsRoom  # not before it is entered

    return SettingsRoom(desk, offers)


SETTINGS: Room[SettingsRoom] = Room("settings", "Settings", "", made, ())
