"""Asking the outside painter for pixels over its open interface (docs/painter.json).

Whatever it does, nothing of ours is lost: it answers with a picture of the asked size in time, or there is an
error that says what happened.
"""

from __future__ import annotations

import base64
import binascii
import http.client
import io
import json
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from pydantic import ValidationError

from sequor.core.raster.pixels import Picture

from .messages import PaintIn, PaintOut, png_text

Mask = NDArray[np.bool_]

CONNECT_SECONDS = 5.0
SILENT_SECONDS = 60.0
"""It may think for so long before it says anything,"""
WHOLE_SECONDS = 180.0
"""and for so long in all."""

MOST_BYTES = 200_000_000
PIECE = 1 << 16
LOOK_SECONDS = 0.1


class PainterError(Exception):
    """The outside painter did not paint: why, in words."""


@dataclass(frozen=True)
class Painter:
    """An outside painter at an ``address``, http://host:port/path."""

    address: str

    def __post_init__(self) -> None:
        parts = urlsplit(self.address)
        try:
            port = parts.port
        except ValueError:
            port = -1
        odd = parts.query or parts.fragment or parts.username
        if parts.scheme not in ("http", "https") or not parts.hostname or port == -1 or odd:
            raise ValueError(f"{self.address!r} is no address of a painter; write http://host:port")

    def paint(
        self, picture: Picture, mask: Mask, hint: str, seed: int, waiting: Callable[[], None] | None = None
    ) -> Picture:
        """The picture (h, w, 3) as it was painted over; only where ``mask`` (h, w) is set does it count.

        ``waiting`` is called all the time; what it raises ends the waiting. Raises PainterError.
        """
        asked = PaintIn(
            picture=png_text(picture),
            mask=png_text(np.where(mask, 255, 0).astype(np.uint8)),
            hint=hint,
            seed=seed,
        )
        body = asked.model_dump_json().encode()
        answer = _Answer(self.address, body)
        try:
            while not answer.wait(LOOK_SECONDS):
                if waiting:
                    waiting()
        finally:
            answer.close()
        return _painted(answer.result(), picture.shape[:2])


class _Answer:
    """An answer that is waited for in a thread of its own."""

    def __init__(self, address: str, body: bytes) -> None:
        parts = urlsplit(address)
        kind = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
        assert parts.hostname is not None
        self._connection = kind(parts.hostname, parts.port, timeout=CONNECT_SECONDS)
        self._path = parts.path.rstrip("/") + "/paint"
        self._body = body
        self._found: bytes | PainterError | None = None
        self._deadline = time.monotonic() + WHOLE_SECONDS
        self._thread = threading.Thread(target=self._ask, daemon=True)
        self._thread.start()

    def wait(self, seconds: float) -> bool:
        """Whether it has come within this time."""
        self._thread.join(seconds)
        return not self._thread.is_alive()

    def close(self) -> None:
        """Listen no longer."""
        self._connection.close()

    def result(self) -> bytes:
        """The body of the answer. Raises PainterError."""
        assert self._found is not None
        if isinstance(self._found, PainterError):
            raise self._found
        return self._found

    def _ask(self) -> None:
        try:
            self._found = self._read()
        except PainterError as error:
            self._found = error
        except TimeoutError:
            self._found = PainterError("The painting service did not answer in time")
        except ConnectionRefusedError:
            self._found = PainterError("The painting service does not answer at its address")
        except (OSError, http.client.HTTPException, ValueError):
            self._found = PainterError("The connection to the painting service broke off")
        except Exception:
            self._found = PainterError("Something went wrong while the painting service was asked")
            raise

    def _read(self) -> bytes:
        self._connection.connect()
        self._connection.sock.settimeout(SILENT_SECONDS)
        headers = {"Content-Type": "application/json", "Accept": "application/json"}
        self._connection.request("POST", self._path, self._body, headers)
        answer = self._connection.getresponse()
        told = answer.getheader("Content-Length")
        read = bytearray()
        while piece := answer.read(PIECE):
            read += piece
            if len(read) > MOST_BYTES:
                raise PainterError("The painting service answered with more than a picture")
            if time.monotonic() > self._deadline:
                raise TimeoutError
        if told is not None and told.isdigit() and len(read) < int(told):
            raise http.client.IncompleteRead(bytes(read))
        if answer.status != 200:
            raise PainterError(f"The painting service refused: {_reason(bytes(read), answer.status)}")
        return bytes(read)


def _reason(body: bytes, status: int) -> str:
    try:
        told = json.loads(body)
        words = str(told.get("detail") or told.get("title") or "")
    except (ValueError, AttributeError):
        words = ""
    plain = "".join(letter for letter in words if letter.isprintable())[:160]
    return plain or f"the answer has status {status} and no reason"


def _painted(body: bytes, size: tuple[int, ...]) -> Picture:
    """The picture of an answer. Raises PainterError."""
    try:
        answer = PaintOut.model_validate_json(body)
        file = base64.b64decode(answer.takes[0].picture, validate=True)
    except (ValidationError, binascii.Error, ValueError):
        raise PainterError("The painting service answered with something that is no picture") from None
    try:
        with Image.open(io.BytesIO(file), formats=["PNG"]) as image:
            if (image.height, image.width) != tuple(size):
                raise PainterError(
                    f"The painting service answered with {image.width} × {image.height} pixels in place of "
                    f"{size[1]} × {size[0]}"
                )
            return np.asarray(image.convert("RGB"))
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise PainterError("The picture from the painting service is damaged") from None
