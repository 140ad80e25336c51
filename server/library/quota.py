"""How much of the disk an account may fill."""

from __future__ import annotations

from typing import Any

from config.errors import OutOfRoom
from django.conf import settings

from library import store


def must_have_room(owner: Any, more: int) -> None:
    """Raises OutOfRoom where so many more bytes would be more than an account may keep."""
    used, most = store.used_by(owner), settings.QUOTA_MB * 2**20
    if used + more > most:
        raise OutOfRoom(
            f"Recordings of this account take {used / 2**20:.0f} of {settings.QUOTA_MB} MB; "
            f"this one needs {more / 2**20:.0f} more. Empty the bin, or take songs off the shelf."
        )


def ending_of(name: str) -> str:
    """The ending that a file is kept with: a few plain signs of its name's, never a path."""
    ending = name.rsplit(".", 1)[-1].lower()[:8] if "." in name else ""
    return ending if ending.isascii() and ending.isalnum() else "sound"
