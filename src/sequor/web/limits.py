"""What a request may be: bounded in size and depth, with numbers and texts that can be kept."""

from __future__ import annotations

import re
from math import isfinite
from typing import Any

from flask import request
from flask.json.provider import DefaultJSONProvider
from werkzeug.routing import IntegerConverter, Map

from sequor.store.room import RESERVE, refuse_without_room
from sequor.web.problems import Problem

LARGEST_JSON = 4_000_000
DEEPEST = 24
"""Levels of nesting; the database keeps no JSON of more than 31."""
LARGEST_ID = 2**31 - 1

UPLOAD = "photos.import_photo"
CHANGES_NOTHING = {
    "bench.evaluate",
    "bench.under",
    "bench.cancel_job",
    "frames.frame",
    "frames.costs",
    "takes.edges",
    "batches.count_take",
    "batches.look_at_series",
    "photos.known",
}
"""Endpoints that are asked with a body, or end something, and store nothing."""

HALF_A_SIGN = re.compile(r"[\ud800-\udfff]")


class Identifier(IntegerConverter):
    """A number in an address that a row can have."""

    def __init__(self, map: Map, *args: Any, **options: Any) -> None:
        super().__init__(map, *args, **{"max": LARGEST_ID, **options})


class StrictJson(DefaultJSONProvider):
    """JSON in which nothing is too deep, infinite, or half a character. Raises Problem."""

    sort_keys = False

    def loads(self, s: str | bytes, **kwargs: Any) -> Any:
        """The document in a text."""
        try:
            document = super().loads(s, parse_constant=_refuse_constant, **kwargs)
        except RecursionError:
            raise _too_deep() from None
        _look_through(document)
        return document


def _refuse_constant(name: str) -> Any:
    raise Problem(400, "Not understood", f"{name} is no number that can be kept; send a finite one")


def _too_deep() -> Problem:
    return Problem(400, "Not understood", f"The document is nested more than {DEEPEST} levels deep")


def _look_through(document: Any) -> None:
    level: list[Any] = [document]
    texts: set[str] = set()
    for _ in range(DEEPEST):
        below: list[Any] = []
        for one in level:
            if type(one) is dict:
                texts.update(one)
                below += one.values()
            elif type(one) is list:
                below += one
        level = []
        for one in below:
            # What is most frequent comes first.
            if type(one) is float:
                if not isfinite(one):
                    raise Problem(400, "Not understood", "A number is too large; send one under 1e308")
            elif type(one) is str:
                texts.add(one)
            elif type(one) is dict or type(one) is list:
                level.append(one)
        if not level:
            break
    else:
        raise _too_deep()
    if HALF_A_SIGN.search("".join(texts)):
        raise Problem(400, "Not understood", "A text has half a character in it; send it whole")


def refuse_too_large() -> None:
    """Bound the body of a request: pictures may be large, documents not. Raises Problem."""
    if request.endpoint == UPLOAD:
        return
    request.max_content_length = LARGEST_JSON
    if (request.content_length or 0) > LARGEST_JSON:
        raise Problem(
            413, "Too large", f"A request may have {LARGEST_JSON // 1_000_000} MB. Nothing was changed"
        )


def refuse_without_room_for_change() -> None:
    """Let nothing be changed that would take the database's last room. Raises NoRoomError."""
    from sequor.web.context import context

    if request.method in ("GET", "HEAD", "OPTIONS") or request.endpoint in CHANGES_NOTHING:
        return
    uploaded = (request.content_length or 0) if request.endpoint == UPLOAD else 0
    # An upload is stored once and then linked; its screen pictures take about a tenth more.
    refuse_without_room(context().store.folder, int(1.1 * uploaded), RESERVE)
