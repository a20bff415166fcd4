"""How a camera was held, as it has put down itself.

Of the aim there is a standard: Exif's CameraElevationAngle (Exif 2.31, CIPA DC-008, tag 0x9405), degrees
above level. Of the tilt there is none. Read are, as their makers name them: PoseRollDegrees and
PosePitchDegrees of the Photo Sphere metadata (namespace ns.google.com/photos/1.0/panorama), and the gimbal's
angles of flying cameras (namespace www.dji.com/drone-dji/1.0), both positive where the right side is lower
and where it is aimed up (signs from memory)."""

from __future__ import annotations

import math
from typing import Any

from sequor.imaging.exif import ELEVATION
from sequor.imaging.xmp import NAMES, DamagedXmpError, Packet

ROLL_NAMES = ((NAMES["GPano"], "PoseRollDegrees"), (NAMES["drone-dji"], "GimbalRollDegree"))
PITCH_NAMES = ((NAMES["GPano"], "PosePitchDegrees"), (NAMES["drone-dji"], "GimbalPitchDegree"))

MOST_ROLL, MOST_PITCH = 45.0, 90.0


def held(details: dict[int, Any], packet: bytes | None) -> tuple[float | None, float | None] | None:
    """Roll and pitch in degrees, positive where the right side is too low and where the camera is aimed up;
    None for what is not recorded. ``details``: the Exif tags; ``packet``: the XMP."""
    try:
        read = Packet(packet) if packet is not None else None
    except DamagedXmpError:
        read = None
    roll = _first(read, ROLL_NAMES, MOST_ROLL)
    pitch = _plain(details.get(ELEVATION), MOST_PITCH)
    if pitch is None:
        pitch = _first(read, PITCH_NAMES, MOST_PITCH)
    return None if roll is None and pitch is None else (roll, pitch)


def _first(packet: Packet | None, names: tuple[tuple[str, str], ...], most: float) -> float | None:
    found = (_plain(packet.value(*name), most) for name in names) if packet is not None else ()
    return next((one for one in found if one is not None), None)


def _plain(value: Any, most: float) -> float | None:
    try:
        degrees = float(value)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return degrees if math.isfinite(degrees) and abs(degrees) <= most else None
