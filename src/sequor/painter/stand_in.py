"""A stand-in for an outside painter: it answers the same interface with procedural materials.

    bin/start --painter stand-in

starts it beside the program, on loopback. ``python -m sequor.painter.stand_in --port N`` starts it alone.
"""

from __future__ import annotations

import argparse
import base64
import binascii
import io
import sys
from collections.abc import Sequence

import numpy as np
from apiflask import APIFlask, HTTPError
from flask import Response, jsonify
from PIL import Image
from waitress import serve

from sequor.core.raster.pixels import Picture

from .materials import WORDS, material_of, paint
from .messages import PaintedOut, PaintIn, PaintOut, RefusedOut, png_text

MOST_PIXELS = 40_000_000
LARGEST_BODY = 300_000_000


def create_stand_in() -> APIFlask:
    """The stand-in as a web application; its OpenAPI document is the interface of every painter."""
    app = APIFlask("painter", title="Painting service for Sequor", version="1", spec_path="/openapi.json")
    app.config.update(
        OPENAPI_VERSION="3.1.0", MAX_CONTENT_LENGTH=LARGEST_BODY, VALIDATION_ERROR_STATUS_CODE=422
    )
    app.config["HTTP_ERROR_SCHEMA"] = app.config["VALIDATION_ERROR_SCHEMA"] = RefusedOut.model_json_schema()

    @app.error_processor
    def refused(error: HTTPError) -> Response:
        detail = _why(error.detail) or error.message
        answer = jsonify({"title": error.message, "detail": detail, "status": error.status_code})
        answer.status_code, answer.mimetype = error.status_code, "application/problem+json"
        return answer

    @app.post("/paint")
    @app.input(PaintIn)
    @app.output(PaintOut)
    @app.doc(responses=[422], tags=["Painter"])
    def paint_it(json_data: PaintIn) -> PaintOut:
        """Paint over the masked part of a picture what a hint says."""
        picture, mask = _read(json_data.picture, "RGB"), _read(json_data.mask, "L")
        if picture.shape[:2] != mask.shape[:2]:
            raise HTTPError(422, "The sizes differ", "the mask is not as large as the picture")
        material = material_of(json_data.hint)
        if material is None:
            known = ", ".join(WORDS)
            raise HTTPError(422, "No such material", f"it paints only these: {known}; name one in the hint")
        height, width = mask.shape[:2]
        seeds = [json_data.seed + more for more in range(json_data.count)]
        takes = []
        for seed in seeds:
            painted = np.where(mask[..., None] > 127, paint(material, width, height, seed), picture)
            takes.append(PaintedOut(picture=png_text(painted), seed=seed))
        return PaintOut(takes=takes)

    return app


def _why(detail: object) -> str:
    """The first reason of a refused message, in words."""
    if isinstance(detail, str):
        return detail
    field = ""
    while isinstance(detail, dict | list) and detail:
        if isinstance(detail, dict):
            field, detail = next(iter(detail.items()))
        else:
            detail = detail[0]
    return f"{field}: {detail}"[:160] if field else ""


def _read(text: str, mode: str) -> Picture:
    """The pixels of a PNG in base64. Raises HTTPError."""
    try:
        file = base64.b64decode(text, validate=True)
        with Image.open(io.BytesIO(file), formats=["PNG"]) as image:
            if image.width * image.height > MOST_PIXELS:
                raise HTTPError(422, "Too large", f"it paints at most {MOST_PIXELS / 1e6:.0f} megapixels")
            return np.asarray(image.convert(mode))
    except (binascii.Error, OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise HTTPError(422, "No picture", "picture and mask must be PNG files in base64") from None


def main(arguments: Sequence[str] | None = None) -> int:
    """Serve on loopback until stopped."""
    parser = argparse.ArgumentParser(description="A stand-in for an external painting service.")
    parser.add_argument("--port", type=int, required=True)
    port = parser.parse_args(arguments).port
    serve(create_stand_in(), host="127.0.0.1", port=port, threads=2, ident=None)
    return 0


if __name__ == "__main__":
    sys.exit(main())
