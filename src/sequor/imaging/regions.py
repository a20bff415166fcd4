"""Marked regions in XMP, faces above all (Metadata Working Group, Guidelines 2.0, 5.9: mwg-rs), carried
through a correction.

Their areas are shares of the picture as it is stored, by their centre and size; a circle has a diameter in
shares of the shorter side."""

from __future__ import annotations

from xml.etree import ElementTree

from sequor.imaging.carrying import Marked, Through, carried_area
from sequor.imaging.xmp import NAMES, RDF, Packet

REGIONS, AREA, DIMENSIONS = NAMES["mwg-rs"], NAMES["stArea"], NAMES["stDim"]


def carry_regions(packet: Packet, through: Through, stored: tuple[int, int], size: tuple[int, int]) -> bool:
    """Change the regions of a packet in place, from a picture ``stored`` so large to one of ``size``; whether
    some were left out, because they are not shown or cannot be read."""
    gone = False
    for bag in packet.rdf.iter(f"{{{RDF}}}Bag"):
        for entry in list(bag):
            area = next(iter(entry.iter(f"{{{REGIONS}}}Area")), None)
            if area is not None and not _carry(area, through, stored, size):
                bag.remove(entry)
                gone = True
    for part in packet.rdf.iter(f"{{{REGIONS}}}AppliedToDimensions"):
        for name, value in zip(("w", "h"), size, strict=True):
            _set(part, DIMENSIONS, name, str(value))
    return gone


def _carry(
    area: ElementTree.Element, through: Through, stored: tuple[int, int], size: tuple[int, int]
) -> bool:
    width, height = stored
    shorter = min(stored)
    diameter = _number(area, "d")
    x, y = _number(area, "x"), _number(area, "y")
    across = _number(area, "w") or 0.0
    down = _number(area, "h") or 0.0
    if x is None or y is None:
        return False
    if diameter is not None:
        marked = Marked(x * width, y * height, diameter * shorter, diameter * shorter)
    else:
        marked = Marked(x * width, y * height, across * width, down * height)
    found = carried_area(marked, through, *size)
    if found is None:
        return False
    told = {"x": found.x / size[0], "y": found.y / size[1]}
    if diameter is not None:
        told["d"] = max(found.width, found.height) / min(size)
    elif across or down:
        told |= {"w": found.width / size[0], "h": found.height / size[1]}
    for name, value in told.items():
        _set(area, AREA, name, f"{value:.6f}")
    return True


def _number(area: ElementTree.Element, name: str) -> float | None:
    key = f"{{{AREA}}}{name}"
    holder = _holder(area, key)
    child = None if holder is None else holder.find(key)
    told = None if holder is None else holder.get(key) if child is None else child.text
    try:
        return None if told is None else float(told)
    except ValueError:
        return None


def _set(part: ElementTree.Element, space: str, name: str, value: str) -> None:
    key = f"{{{space}}}{name}"
    holder = _holder(part, key)
    if holder is None:
        return
    child = holder.find(key)
    if child is None:
        holder.set(key, value)
    else:
        child.text = value


def _holder(part: ElementTree.Element, key: str) -> ElementTree.Element | None:
    """The element that has a field, as an attribute or as an element."""
    return next((one for one in part.iter() if key in one.attrib or one.find(key) is not None), None)
