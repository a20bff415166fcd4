"""XMP (ISO 16684-1) made true: what is no longer so goes, what was done is added, the rest stays."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime
from typing import Any
from xml.etree import ElementTree

RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
META = "adobe:ns:meta/"
NAMES = {
    "x": META,
    "rdf": RDF,
    "tiff": "http://ns.adobe.com/tiff/1.0/",
    "exif": "http://ns.adobe.com/exif/1.0/",
    "aux": "http://ns.adobe.com/exif/1.0/aux/",
    "exifEX": "http://cipa.jp/exif/1.0/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "xmpMM": "http://ns.adobe.com/xap/1.0/mm/",
    "stEvt": "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#",
    "xmpDM": "http://ns.adobe.com/xmp/1.0/DynamicMedia/",
    "dc": "http://purl.org/dc/elements/1.1/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    "hdrgm": "http://ns.adobe.com/hdr-gain-map/1.0/",
    "GPano": "http://ns.google.com/photos/1.0/panorama/",
    "mwg-rs": "http://www.metadataworkinggroup.com/schemas/regions/",
    "drone-dji": "http://www.dji.com/drone-dji/1.0/",
    "MPRI": "http://ns.microsoft.com/photo/1.2/",
    "stArea": "http://ns.adobe.com/xmp/sType/Area#",
    "stDim": "http://ns.adobe.com/xap/1.0/sType/Dimensions#",
    "sequor": "https://sequor.example/ns/1.0/",
}

STALE = {
    "tiff": ("Orientation", "ImageWidth", "ImageLength"),
    "exif": ("PixelXDimension", "PixelYDimension", "SubjectArea", "SubjectLocation"),
    "hdrgm": (),
    "GPano": (),
    "drone-dji": ("GimbalRollDegree", "GimbalPitchDegree", "GimbalYawDegree"),
    "MPRI": (),
}
"""What may no longer be true of a corrected picture: of these namespaces these properties, or all of them."""

RESOLUTION = ("XResolution", "YResolution", "ResolutionUnit")
DEEPEST = 100
"""Levels of nesting: a packet has ten."""

RESERVED = re.compile(r"ns\d+$")
"""Prefixes that the library makes up by itself."""
PLACE = re.compile(r"^GPS")
SERIALS = ("SerialNumber", "OwnerName", "LensSerialNumber", "BodySerialNumber", "CameraOwnerName")

DIGITAL_SOURCE = "DigitalSourceType"

Wanted = Callable[[str, str], bool]


class DamagedXmpError(ValueError):
    """A packet that cannot be read."""


class Packet:
    """An XMP packet. Raises DamagedXmpError."""

    def __init__(self, packet: bytes | None) -> None:
        if packet is None:
            self.root = ElementTree.Element(f"{{{META}}}xmpmeta")
            rdf = ElementTree.SubElement(self.root, f"{{{RDF}}}RDF")
        else:
            # Declarations are what bombs are made of, and no packet has any.
            if b"<!DOCTYPE" in packet or b"<!ENTITY" in packet:
                raise DamagedXmpError("declarations")
            try:
                self.root = _read(packet.strip(b"\0 \r\n\t"))
            except (ElementTree.ParseError, ValueError, LookupError):
                raise DamagedXmpError("no XML") from None
            found = self.root if self.root.tag == f"{{{RDF}}}RDF" else self.root.find(f".//{{{RDF}}}RDF")
            if found is None:
                raise DamagedXmpError("no RDF")
            rdf = found
        self.rdf = rdf

    @property
    def _parts(self) -> list[ElementTree.Element]:
        return self.rdf.findall(f"{{{RDF}}}Description")

    def value(self, namespace: str, name: str) -> str | None:
        """A plain property, or None."""
        of = f"{{{namespace}}}{name}"
        for part in self._parts:
            child = part.find(of)
            found = part.get(of, child.text if child is not None else None)
            if found is not None:
                return found
        return None

    def drop(self, wanted: Wanted) -> bool:
        """Take away the properties, by their namespace and name, that are wanted away; whether there were
        any."""
        any_ = False
        for part in self._parts:
            for name in [one for one in part.attrib if _matches(one, wanted)]:
                del part.attrib[name]
                any_ = True
            for child in [one for one in part if isinstance(one.tag, str) and _matches(one.tag, wanted)]:
                part.remove(child)
                any_ = True
        return any_

    def text(self, space: str, name: str) -> str | None:
        """A simple property."""
        key = f"{{{NAMES[space]}}}{name}"
        for part in self._parts:
            if key in part.attrib:
                return part.attrib[key]
            child = part.find(key)
            if child is not None and child.text:
                return child.text
        return None

    def put(self, space: str, name: str, value: str) -> None:
        """Set a simple property."""
        self.drop(lambda where, called: (where, called) == (NAMES[space], name))
        ElementTree.SubElement(self._first(), f"{{{NAMES[space]}}}{name}").text = value

    def add_event(self, action: str, agent: str, when: datetime, parameters: str) -> None:
        """One more entry of the file's history (xmpMM:History, XMP part 2: ResourceEvent)."""
        key = f"{{{NAMES['xmpMM']}}}History"
        found = next((child for part in self._parts if (child := part.find(key)) is not None), None)
        history = ElementTree.SubElement(self._first(), key) if found is None else found
        entries = history.find(f"{{{RDF}}}Seq")
        if entries is None:
            entries = ElementTree.SubElement(history, f"{{{RDF}}}Seq")
        told = {"action": action, "softwareAgent": agent, "when": _moment(when), "parameters": parameters}
        ElementTree.SubElement(
            entries, f"{{{RDF}}}li", {f"{{{NAMES['stEvt']}}}{name}": one for name, one in told.items()}
        )

    def _first(self) -> ElementTree.Element:
        parts = self._parts
        return (
            parts[0]
            if parts
            else ElementTree.SubElement(self.rdf, f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
        )

    def written(self) -> bytes:
        """The packet, in the wrapper that scanners look for (XMP part 1, 7.3.2)."""
        for prefix, space in NAMES.items():
            ElementTree.register_namespace(prefix, space)
        body: bytes = ElementTree.tostring(self.root, encoding="utf-8", xml_declaration=False)
        start = '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'.encode()
        return start + body + b'\n<?xpacket end="w"?>'


def _read(packet: bytes) -> ElementTree.Element:
    """The tree of a packet; the prefixes that it uses are those under which it is written again."""
    parser: ElementTree.XMLPullParser[Any] = ElementTree.XMLPullParser(("start-ns", "start", "end"))
    parser.feed(packet)
    parser.close()
    root: object = None
    events: Any = parser.read_events()
    depth = 0
    for event, found in events:
        depth += (event == "start") - (event == "end")
        if depth > DEEPEST:
            raise DamagedXmpError("too deep")
        if event == "start-ns":
            prefix, space = found
            if prefix and not RESERVED.match(prefix):
                ElementTree.register_namespace(prefix, space)
        elif event == "end":
            root = found
    if not isinstance(root, ElementTree.Element):
        raise DamagedXmpError("no XML")
    return root


def _matches(tag: str, wanted: Wanted) -> bool:
    space, _, name = tag.removeprefix("{").partition("}")
    return bool(name) and wanted(space, name)


def is_stale(space: str, name: str) -> bool:
    """Whether a property may no longer be true of a corrected picture."""
    for prefix, names in STALE.items():
        if space.startswith(NAMES[prefix]) and (not names or name in names):
            return True
    return False


def is_place(space: str, name: str) -> bool:
    """Whether a property says where the photo was taken."""
    return space in (NAMES["exif"], NAMES["exifEX"]) and PLACE.match(name) is not None


def is_serial(space: str, name: str) -> bool:
    """Whether a property names the very camera, lens or owner."""
    return space in (NAMES["aux"], NAMES["exifEX"], NAMES["exif"]) and name in SERIALS


def is_resolution(space: str, name: str) -> bool:
    """Whether a property says how large the photo is printed."""
    return space == NAMES["tiff"] and name in RESOLUTION


def _moment(when: datetime) -> str:
    return when.astimezone().isoformat(timespec="seconds")
