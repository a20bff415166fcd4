"""The application."""

from __future__ import annotations

import json
import secrets
from pathlib import Path
from typing import Any

from apiflask import APIFlask
from flask import Response, g, send_from_directory
from flask_compress import Compress

from sequor.imaging.decode import LARGEST_BYTES
from sequor.jobs.asking import WorkQueue
from sequor.jobs.batches import Batches
from sequor.jobs.going_on import GoingOn
from sequor.jobs.jobs import Jobs
from sequor.jobs.logs import REQUEST
from sequor.operations.looking import Looks
from sequor.operations.rendering import KEPT_BYTES, Originals
from sequor.painter.client import Painter
from sequor.store.database import Store
from sequor.store.owners import act_for
from sequor.web.accounts.network import ALONE, Access, open_to_network
from sequor.web.accounts.routes import accounts
from sequor.web.batches.routes import batches_of
from sequor.web.bench.routes import bench
from sequor.web.context import Context
from sequor.web.frames.routes import frames
from sequor.web.going_on.metrics import Metrics
from sequor.web.going_on.routes import going_on as going_on_routes
from sequor.web.guard import Guard, token_of
from sequor.web.limits import Identifier, StrictJson, refuse_too_large, refuse_without_room_for_change
from sequor.web.photos.routes import FOREVER, photo_routes
from sequor.web.problems import Problem, register_problems
from sequor.web.review.routes import review
from sequor.web.takes.routes import takes_of
from sequor.web.versions.routes import versions_of

LARGEST_BODY = LARGEST_BYTES + 10_000_000
PAGE_TYPES = ["text/html", "text/css", "text/javascript", "application/javascript", "image/svg+xml"]


def create_app(
    store: Store,
    queue: WorkQueue,
    front_end: Path,
    painter: Painter | None = None,
    exports: Path | None = None,
    access: Access = ALONE,
    of: int = 1,
) -> APIFlask:
    """The web application over a store; ``front_end`` is the folder of the built pages.

    ``painter``: the outside painter, and ``exports``: the folder for exports, that were named at the start;
    no request changes them. ``access``: who it is for; ``of`` how many processes that answer side by side
    this is one.
    """
    app = APIFlask(
        "sequor",
        title="Sequor",
        version="1",
        spec_path="/api/openapi.json",
        static_folder=None,  # type: ignore[arg-type]
    )
    app.config.update(OPENAPI_VERSION="3.1.0", MAX_CONTENT_LENGTH=LARGEST_BODY, AUTO_404_RESPONSE=False)
    # Only what ships with the program: an evaluation goes over loopback quicker than it is compressed.
    app.config.update(
        COMPRESS_ALGORITHM="gzip", COMPRESS_ALGORITHM_STREAMING="gzip", COMPRESS_MIMETYPES=PAGE_TYPES
    )
    Compress(app)
    app.json = StrictJson(app)
    app.url_map.converters["int"] = Identifier
    guard = Guard(store, token_of(store.folder), access)
    going_on = GoingOn(store, queue)
    metrics = Metrics(going_on)
    app.extensions["sequor"] = Context(
        store,
        Jobs(store, queue),
        Batches(store, queue, exports),
        queue,
        Originals(store, KEPT_BYTES // of),
        Looks(store.looks),
        going_on,
        metrics,
        guard,
        painter,
    )
    app.before_request(name_request)
    app.before_request(metrics.before)
    app.before_request(guard.before)
    app.before_request(refuse_too_large)
    app.before_request(refuse_without_room_for_change)
    app.after_request(guard.after)
    app.after_request(metrics.after)
    app.teardown_request(forget_request)
    register_problems(app)
    app.register_blueprint(accounts)
    app.register_blueprint(photo_routes)
    app.register_blueprint(bench)
    app.register_blueprint(frames)
    app.register_blueprint(versions_of)
    app.register_blueprint(takes_of)
    app.register_blueprint(batches_of)
    app.register_blueprint(review)
    app.register_blueprint(going_on_routes)

    if access.network:
        open_to_network(app, store, access)
    app.spec_processor(_each_schema_once)

    @app.get("/")
    @app.get("/review")
    @app.get("/going-on")
    @app.get("/account")
    @app.get("/photos/<int:photo_id>")
    @app.doc(hide=True)
    def page(photo_id: int | None = None) -> Response:
        """Every address of a screen gets the one page, with a fresh nonce for its styles."""
        html = (front_end / "index.html").read_text().replace("NONCE-OF-THIS-ANSWER", g.nonce)
        return Response(html, mimetype="text/html", headers={"Cache-Control": "no-store"})

    @app.get("/assets/<path:name>")
    @app.doc(hide=True)
    def asset(name: str) -> Response:
        response = send_from_directory(front_end / "assets", name)
        response.headers["Cache-Control"] = FOREVER
        return response

    @app.get("/favicon.svg")
    @app.doc(hide=True)
    def icon() -> Response:
        return send_from_directory(front_end, "favicon.svg")

    @app.get("/api/<path:unknown>")
    @app.doc(hide=True)
    def nothing(unknown: str) -> Response:
        raise Problem(404, "No such address", f"/api/{unknown} is not part of this program")

    return app


def name_request() -> None:
    """Give a request a name: what is noted about it has it, and so has its answer."""
    REQUEST.set(secrets.token_hex(8))


def forget_request(error: BaseException | None) -> None:
    """What its thread does after a request does not belong to it."""
    del error
    REQUEST.set(None)
    act_for(None)


def _each_schema_once(document: dict[str, Any] | str) -> dict[str, Any] | str:
    """Parts of a message come as "Message.Part", once for every message; here each part is written once."""
    assert isinstance(document, dict)
    schemas = document["components"]["schemas"]
    text = json.dumps(document)
    for name in schemas:
        text = text.replace(f'"#/components/schemas/{name}"', f'"#/components/schemas/{name.split(".")[-1]}"')
    renamed: dict[str, Any] = json.loads(text)
    once: dict[str, Any] = {}
    for name, schema in renamed["components"]["schemas"].items():
        if once.setdefault(name.split(".")[-1], schema) != schema:
            raise ValueError(f"two different schemas are called {name}")
    renamed["components"]["schemas"] = once
    return renamed
