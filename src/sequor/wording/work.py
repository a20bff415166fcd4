"""What people read about the work that goes on, who does it, and the room it takes."""

from __future__ import annotations

LANES = {
    "import": "Adding photos",
    "export": "Exporting the open photo",
    "bulk": "Many photos at once",
    "look": "Looking at new photos",
    "takes": "Filling corners and touch-ups",
    "fill": "Exporting with new pixels",
}
WORKERS = {
    "asked": "what somebody waits for",
    "bulk": "many photos, with what is free of this computer",
    "fill": "new pixels",
}
SERVICES = {"database": "Database", "queue": "Queue", "files": "Data folder", "objects": "File store"}
ROOM = {
    "database": "Database",
    "looks": "What was found in photos",
    "originals": "Originals",
    "patches": "New pixels",
    "quarantine": "Files that no photo knows",
    "rough": "First looks",
    "screen": "Pictures for the screen",
    "work": "Work and exports that wait to be downloaded",
}


def lane_words(name: str) -> str:
    """What is done in a lane."""
    return LANES.get(name, name)


def worker_words(name: str) -> str:
    """What a worker does; behind a full stop stands whose it is, where several computers share the work.

    >>> worker_words("fill.studio-812"), worker_words("odd")
    ('new pixels', '')
    """
    return WORKERS.get(name.partition(".")[0], "")


def service_words(name: str) -> str:
    """What a service is."""
    return SERVICES[name]


def room_words(name: str) -> str:
    """What lies in a folder of the data folder."""
    return ROOM.get(name, name)
