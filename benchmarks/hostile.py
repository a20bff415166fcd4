"""Mutated files through the import, and those that are taken in through an export as well.

    .venv/bin/python -m benchmarks.hostile --files 10000 --seed 1

Pictures of every kind that is taken in, with EXIF, ICC and XMP, interlaced, progressive, with a palette, are
changed at random places, cut short, spliced; some are made to be awkward. Each goes through a process of its
own that has the limits of an import. Wanted: no crash, every refusal with a reason, every import exportable,
nothing left over, the memory of a child within bounds.
"""

from __future__ import annotations

import argparse
import collections
import io
import multiprocessing
import os
import random
import resource
import struct
import sys
import tempfile
import threading
import time
import zlib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from originals import dng_bytes, heic_bytes, tiff_bytes
from PIL import Image, ImageCms, PngImagePlugin

from sequor.jobs.failures import failure_of
from sequor.jobs.limits import keep_within_limits
from sequor.operations.exporting import export
from sequor.operations.importing import inspect
from sequor.recipe.evolve import evolve
from sequor.recipe.first import first_recipe
from sequor.recipe.model.export import Format

PNG = b"\x89PNG\r\n\x1a\n"
context = multiprocessing.get_context("forkserver")
context.set_forkserver_preload(["benchmarks.hostile"])


@dataclass
class Outcome:
    """What became of the files. ``peak``: the most memory of a child, in MB."""

    taken: int = 0
    refused: collections.Counter[str] = field(default_factory=collections.Counter)
    noticed: int = 0
    troubles: list[str] = field(default_factory=list)
    peak: float = 0.0
    longest: float = 0.0


def through(pipe: Connection, file: Path, folder: Path) -> None:
    """What an import and then an export do with a file; runs in a child."""
    keep_within_limits()
    told: dict[str, Any] = {"refused": None, "notices": 0, "failed": None}
    try:
        found = inspect(file, folder / "screen", unheard)
        try:
            recipe = first_recipe(found.width, found.height, found.sha256, None)
            # A format with alpha asks for more of a file.
            kind: Format = "png" if found.bytes % 2 else "jpeg"
            recipe = evolve(recipe, export=evolve(recipe.export, format=kind))
            done = export(file, recipe, folder / "out", unheard)
            told["notices"] = len(done.notices)
            with Image.open(folder / "out") as written:
                written.load()
                if written.getexif().get(0x0112, 1) != 1:
                    told["failed"] = "the export is turned twice"
        except Exception as error:
            told["failed"] = f"import went well, export did not: {type(error).__name__}: {error}"
    except Exception as error:
        failure = failure_of(error)
        told["refused"] = None if failure is None else (failure.code, failure.words)
        if failure is None:
            told["failed"] = f"{type(error).__name__}: {error}"
    told["peak"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    pipe.send(told)


def unheard(share: float, words: str) -> None:
    """Nobody looks how far it is."""


def in_child(file: Path, folder: Path, seconds: float) -> dict[str, Any]:
    """What a child of its own tells of a file; it is killed when it takes too long."""
    ours, theirs = context.Pipe(duplex=False)
    child = context.Process(target=through, args=(theirs, file, folder), daemon=True)
    child.start()
    theirs.close()
    told: dict[str, Any] = {
        "failed": None,
        "refused": ("time", "it took too long"),
        "notices": 0,
        "peak": 0.0,
    }
    try:
        if ours.poll(seconds):
            told = ours.recv()
            # It ends by itself, so that what its libraries hold is given back in order.
            child.join(2)
        return told
    except EOFError:
        return told | {"failed": "the child crashed", "refused": None}
    finally:
        child.kill()
        child.join()
        ours.close()


def run(files: int, seed: int, folder: Path, seconds: float = 60) -> Outcome:
    """Send so many mutated files through, each for so long at most, and all that are made to be awkward."""
    outcome, lock = Outcome(), threading.Lock()
    # The server that children are forked from looks for modules there only.
    os.environ["PYTHONPATH"] = os.pathsep.join(filter(None, sys.path))

    def one(numbered: tuple[int, str, bytes]) -> None:
        number, name, content = numbered
        own = folder / str(number)
        own.mkdir()
        file = own / "file"
        file.write_bytes(content)
        begun = time.monotonic()
        told = in_child(file, own, seconds)
        with lock:
            outcome.longest = max(outcome.longest, time.monotonic() - begun)
            outcome.peak = max(outcome.peak, told["peak"])
            outcome.noticed += told["notices"] > 0
            if told["failed"]:
                outcome.troubles.append(f"{name}: {told['failed'][-300:]}")
            elif told["refused"]:
                code, words = told["refused"]
                outcome.refused[code] += 1
                if len(words) < 20:
                    outcome.troubles.append(f"{name}: refused without a reason: {words!r}")
            else:
                outcome.taken += 1
        for left in sorted(own.rglob("*"), reverse=True):
            if left.name.endswith(".unfinished"):
                outcome.troubles.append(f"{name}: left {left.name}")
            left.rmdir() if left.is_dir() else left.unlink()
        own.rmdir()

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(one, _numbered(files, seed)))
    return outcome


def _numbered(files: int, seed: int) -> Iterator[tuple[int, str, bytes]]:
    chance, whole = random.Random(seed), pictures()
    for number, (name, content) in enumerate(sorted({**whole, **awkward(whole)}.items())):
        yield number, name, content
    names = sorted(whole)
    for number in range(files):
        name = chance.choice(names)
        yield 10_000_000 + number, f"{name} {number}", mutated(chance, whole[name])


def pictures() -> dict[str, bytes]:
    """Whole pictures of every kind."""
    y, x = np.mgrid[0:120, 0:160]
    image = Image.fromarray(np.stack([x, y, (x + y) % 256], -1).astype(np.uint8))
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x0112] = "Invented Optics", "IO-1", 6
    exif.get_ifd(0x8769).update({0xA405: 28, 0x920A: 4.5, 0x9003: "2026:01:01 00:00:00", 0xA434: "Lens"})
    exif.get_ifd(0x8825).update({1: "N", 2: (50.0, 1.0, 2.0)})
    icc = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    xmp = (
        b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        b'<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:source>here</dc:source>'
        b"</rdf:Description></rdf:RDF></x:xmpmeta>"
    )
    text = PngImagePlugin.PngInfo()
    text.add_text("Comment", "hello")
    text.add_itxt("XML:com.adobe.xmp", xmp.decode())
    turned = image.transpose(Image.Transpose.ROTATE_180)
    found = {
        "jpeg": _saved(image, "JPEG", quality=90),
        "jpeg exif": _saved(image, "JPEG", exif=exif.tobytes()),
        "jpeg all": _saved(image, "JPEG", exif=exif.tobytes(), icc_profile=icc, xmp=xmp),
        "jpeg progressive": _saved(image, "JPEG", progressive=True, exif=exif.tobytes()),
        "jpeg grey": _saved(image.convert("L"), "JPEG", icc_profile=icc),
        "jpeg cmyk": _saved(image.convert("CMYK"), "JPEG"),
        "png": _saved(image, "PNG"),
        "png palette": _saved(image.convert("P"), "PNG"),
        "png alpha": _saved(image.convert("RGBA"), "PNG"),
        "png grey alpha": _saved(image.convert("LA"), "PNG"),
        "png one bit": _saved(image.convert("1"), "PNG"),
        "png all": _saved(image, "PNG", exif=exif.tobytes(), icc_profile=icc, pnginfo=text),
        "png interlaced": _interlaced(np.asarray(image)),
        "mpo": _saved(image, "MPO", save_all=True, append_images=[turned]),
        "apng": _saved(image, "PNG", save_all=True, append_images=[turned] * 3),
        **deep_pictures(np.asarray(image), icc, exif.tobytes()),
    }
    # EXIF text in Latin-1, as some cameras write it.
    found["jpeg latin"] = found["jpeg all"].replace(b"Invented Optics", b"Inv\xe9nt\xe9e Optics")
    return found


def deep_pictures(picture: np.ndarray[Any, Any], icc: bytes, exif: bytes) -> dict[str, bytes]:
    """Whole pictures of the kinds beside JPEG and PNG of 8 bits."""
    deep = picture.astype(np.uint16) * 257
    image = Image.fromarray(picture)
    return {
        "tiff": tiff_bytes(picture, photometric="rgb", compression="lzw", iccprofile=icc),
        "tiff deep": tiff_bytes(deep, photometric="rgb", tile=(32, 32)),
        "tiff float": tiff_bytes((picture / 255).astype(np.float32), photometric="rgb"),
        "webp": _saved(image, "WEBP", exif=exif, icc_profile=icc),
        "avif": _saved(image, "AVIF", exif=exif, icc_profile=icc),
        "avif deep": bytes(imagecodecs.avif_encode(deep >> 6, bitspersample=10, level=80)),
        "heic": heic_bytes(picture, exif=exif),
        "jxl": bytes(imagecodecs.jpegxl_encode(deep, lossless=True)),
        "png deep": bytes(imagecodecs.png_encode(deep)),
        "jpeg twelve": bytes(imagecodecs.jpeg_encode(deep >> 4, bitspersample=12, level=90)),
        "raw": dng_bytes(picture / 255),
    }


def _saved(image: Image.Image, kind: str, **options: Any) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def chunk(kind: bytes, content: bytes) -> bytes:
    """A chunk of a PNG (3rd ed., 5.3)."""
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))


def png(width: int, height: int, *chunks: bytes, colour: int = 2, depth: int = 8, data: bytes = b"") -> bytes:
    """A PNG that claims a size."""
    header = struct.pack(">IIBBBBB", width, height, depth, colour, 0, 0, 0)
    body = data or zlib.compress(bytes(1000))
    return PNG + chunk(b"IHDR", header) + b"".join(chunks) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


def _interlaced(pixels: np.ndarray[Any, Any]) -> bytes:
    """Adam7 (PNG, 3rd ed., 8.2)."""
    passes = [(0, 0, 8, 8), (4, 0, 8, 8), (0, 4, 4, 8), (2, 0, 4, 4), (0, 2, 2, 4), (1, 0, 2, 2)]
    rows = bytearray()
    for left, top, across, down in [*passes, (0, 1, 1, 2)]:
        for row in pixels[top::down, left::across]:
            rows += b"\0" + row.tobytes()
    height, width = pixels.shape[:2]
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 1)
    return PNG + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def awkward(whole: dict[str, bytes]) -> dict[str, bytes]:
    """Files that are made to take memory or time, or are something else."""
    jpeg, plain = whole["jpeg"], whole["png"]

    def segment(marker: int, content: bytes) -> bytes:
        inserted = struct.pack(">BBH", 0xFF, marker, len(content) + 2) + content
        return jpeg[:2] + inserted + jpeg[2:]

    bomb = zlib.compress(b"A" * 100_000_000, 9)
    large = _saved(Image.new("RGB", (6000, 6000)), "JPEG", progressive=True)
    scan = large[large.rfind(b"\xff\xda") : -2]
    profiles = b"".join(
        struct.pack(">BBH", 0xFF, 0xE2, 2 + 14 + 65_000)
        + b"ICC_PROFILE\0"
        + bytes([at + 1, 255])
        + bytes(65_000)
        for at in range(255)
    )
    header = jpeg.find(b"\xff\xc0") + 5
    tiff, xmp = b"Exif\0\0II*\0\x08\0\0\0", b"http://ns.adobe.com/xap/1.0/\0"
    entity = b"<!DOCTYPE x [<!ENTITY a 'aaaaaaaaaa'>" + b"".join(
        b"<!ENTITY %c '%s'>" % (98 + at, b"&%c;" % (97 + at) * 10) for at in range(9)
    )
    return {
        "empty": b"",
        "one byte": b"\xff",
        "zeros": bytes(100_000),
        "text": b"hello" * 100,
        "picture twice": jpeg + jpeg,
        "archive behind": jpeg + b"PK\x03\x04" + b"A" * 1000,
        "exif self": segment(0xE1, tiff + b"\x01\0\x69\x87\x04\0\x01\0\0\0\x08\0\0\0\x08\0\0\0"),
        "exif count": segment(0xE1, tiff + b"\x01\0\x0f\x01\x02\0\xff\xff\xff\xff\x08\0\0\0\0\0\0\0"),
        "exif entries": segment(0xE1, tiff + b"\xff\xff" + b"\x0f\x01\x02\0\x05\0\0\0\x08\0\0\0" * 5000),
        "profile of zeros": segment(0xE2, b"ICC_PROFILE\0\x01\x01" + bytes(3000)),
        "profiles, 16 MB": jpeg[:2] + profiles + jpeg[2:],
        "xmp entities": segment(
            0xE1, xmp + entity + b"]><x:xmpmeta xmlns:x='adobe:ns:meta/'>&j;</x:xmpmeta>"
        ),
        "xmp deep": segment(0xE1, xmp + b"<a>" * 20_000),
        "scans": large[:-2] + scan * 300 + b"\xff\xd9",
        "jpeg 65500": jpeg[:header] + struct.pack(">HH", 65_500, 65_500) + jpeg[header + 4 :],
        "jpeg 31999": jpeg[:header] + struct.pack(">HH", 3125, 31_999) + jpeg[header + 4 :],
        "png 65535": png(65_535, 65_535),
        "png 0": png(0, 0),
        "png 2 to the 31": png(2**31 - 1, 1),
        "png of 100 MP": png(10_000, 10_000, data=zlib.compress(bytes(30_001 * 10_000), 9)),
        "png text bomb": png(10, 10, chunk(b"zTXt", b"k\0\0" + bomb)),
        "png profile bomb": png(10, 10, chunk(b"iCCP", b"k\0\0" + bomb)),
        "png chunks": png(10, 10, chunk(b"tEXt", b"k\0v") * 300_000),
        "png length": plain[:8] + b"\xff\xff\xff\xff" + plain[12:],
        "gif": _saved(Image.new("P", (9, 9)), "GIF"),
        "tiff": _saved(Image.new("RGB", (9, 9)), "TIFF"),
        "svg": b'<svg xmlns="http://www.w3.org/2000/svg"/>',
        "one pixel": _saved(Image.new("RGB", (1, 1)), "PNG"),
        "a line": _saved(Image.new("RGB", (1, 32_000)), "PNG"),
    }


def mutated(chance: random.Random, content: bytes) -> bytes:
    """A file with something about it changed; in half of the PNGs the check sums are made right again."""
    changed, how = bytearray(content), chance.randrange(7)
    head = min(700, len(changed))
    if how < 2:
        for _ in range(chance.choice((1, 1, 2, 4, 16, 64))):
            changed[chance.randrange(len(changed))] = chance.randrange(256)
    elif how == 2:
        del changed[chance.randrange(len(changed)) :]
    elif how == 3:
        at = chance.randrange(len(changed))
        changed[at:at] = chance.randbytes(chance.randrange(1, 200))
    elif how == 4:
        at = chance.randrange(max(1, len(changed) - 4))
        changed[at : at + 4] = chance.choice((b"\xff" * 4, bytes(4), b"\x7f\xff\xff\xff", b"\x80\0\0\0"))
    elif how == 5:
        for _ in range(chance.choice((1, 3, 8))):
            changed[chance.randrange(head)] = chance.randrange(256)
    else:
        at, to, size = (
            chance.randrange(len(changed)),
            chance.randrange(len(changed)),
            chance.randrange(1, 400),
        )
        changed[to : to + size] = changed[at : at + size]
    if changed[:8] == PNG and chance.random() < 0.5:
        return _with_sums(bytes(changed))
    return bytes(changed)


def _with_sums(content: bytes) -> bytes:
    at, mended = 8, content[:8]
    while at + 12 <= len(content):
        size = int.from_bytes(content[at : at + 4], "big")
        if at + 12 + size > len(content):
            break
        mended += chunk(content[at + 4 : at + 8], content[at + 8 : at + 8 + size])
        at += 12 + size
    return mended + content[at:]


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--files", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    begun = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        outcome = run(options.files, options.seed, Path(folder))
        left = list(Path(folder).iterdir())
    refused = dict(outcome.refused.most_common())
    print(f"{options.files} mutated and some awkward files in {time.monotonic() - begun:.0f} s")
    print(f"taken in and exported: {outcome.taken}, of which {outcome.noticed} with a word on their metadata")
    print(
        f"refused: {refused}; most memory of a child {outcome.peak:.0f} MB; longest {outcome.longest:.1f} s"
    )
    print(f"left over: {len(left)}; troubles: {len(outcome.troubles)}")
    for trouble in outcome.troubles[:40]:
        print(f"  {trouble}")
    return 1 if outcome.troubles or left else 0


if __name__ == "__main__":
    sys.exit(main())
