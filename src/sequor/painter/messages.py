"""What goes over the wire to an outside painter and back."""

from __future__ import annotations

import base64
import io
from typing import Annotated, Literal

from PIL import Image
from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from sequor.core.raster.pixels import Picture

Base64 = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9+/]+={0,2}$")]


class Message(BaseModel):
    """A message; what it does not know is refused, and a number that comes as text too."""

    model_config = ConfigDict(extra="forbid", strict=True)


class PaintIn(Message):
    """What is to be painted. ``picture``: PNG, RGB; ``mask``: PNG, grey, of the same size, white where it is
    to be painted; both in base64. The same ``seed`` should give the same pixels."""

    format: Literal["sequor-paint"] = "sequor-paint"
    version: Literal[1] = 1
    picture: Base64
    mask: Base64
    hint: str = Field(min_length=1, max_length=200, description="what is to be there, in words")
    seed: int = Field(default=1, ge=0, le=2**31 - 1)
    count: int = Field(default=1, ge=1, le=4, description="how many takes are wanted")


class PaintedOut(BaseModel):
    """One take: the picture painted over, PNG in base64, of just the size that was sent."""

    picture: Base64
    seed: int


class PaintOut(BaseModel):
    """The takes. Only what lies within the mask counts."""

    takes: list[PaintedOut] = Field(min_length=1, max_length=4)


class RefusedOut(BaseModel):
    """Why nothing was painted (RFC 9457)."""

    title: str
    detail: str
    status: int


def png_text(pixels: Picture) -> str:
    """Pixels (h, w) or (h, w, 3) as a PNG in base64."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG", compress_level=1)
    return base64.b64encode(buffer.getvalue()).decode()
