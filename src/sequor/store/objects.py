"""An object store with S3's interface: files by their keys, written once, shared by several machines.

What is asked of it is little: a PUT that fails where there is an object already (``If-None-Match: *``, RFC
9110, 13.1.2), GET, HEAD, LIST, COPY and DELETE. Its own check sums are not relied on: whoever reads hashes.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

CHUNK = 1 << 20
TRIES = 3
ANSWERS_WITHIN = timedelta(seconds=30)

KEY, SECRET = "AWS_ACCESS_KEY_ID", "AWS_SECRET_ACCESS_KEY"
"""Where the keys are in the environment; they stand in no address."""


class ObjectsGoneError(OSError):
    """The object store does not answer, or lets nobody in."""

    def __init__(self, why: object) -> None:
        first = str(why).strip().splitlines()[0] if str(why).strip() else type(why).__name__
        super().__init__(
            f"The file store does not answer ({first[:160]}). Nothing was changed; see that it runs, then "
            "try again"
        )


class Objects:
    """The objects of one address, ``s3://bucket/prefix?endpoint=http://host:port&region=…``.

    Raises ValueError for an address that is none. All its methods raise ObjectsGoneError.
    """

    def __init__(self, address: str) -> None:
        parts = urlsplit(address)
        options = {name: values[-1] for name, values in parse_qs(parts.query).items()}
        if parts.scheme != "s3" or not parts.netloc or not options.keys() <= {"endpoint", "region"}:
            raise ValueError(
                f"{address} is no address of a file store; write s3://bucket?endpoint=http://host:port"
            )
        endpoint = options.get("endpoint")
        more: dict[str, Any] = {} if endpoint is None else {"endpoint": endpoint}
        for name, where in (("access_key_id", KEY), ("secret_access_key", SECRET)):
            if os.environ.get(where):
                more[name] = os.environ[where]
        # Alone on one computer nobody needs it.
        import obstore
        from obstore.store import S3Store

        self._api = obstore
        self.address = address
        self._store = S3Store(
            parts.netloc,
            prefix=parts.path.strip("/") or None,
            region=options.get("region", "us-east-1"),
            virtual_hosted_style_request=endpoint is None,
            client_options={"allow_http": True, "timeout": ANSWERS_WITHIN},
            retry_config={"max_retries": TRIES, "retry_timeout": ANSWERS_WITHIN},
            **more,
        )

    def put(self, file: Path, key: str) -> bool:
        """Write a file under a key that has none; whether it was not there. Of several that put one at once
        one writes, and nobody fails."""
        with _answers():
            try:
                self._api.put(self._store, key, file, mode="create", use_multipart=False)
            except self._api.exceptions.AlreadyExistsError:
                return False
        return True

    def write(self, content: bytes | Path, key: str) -> None:
        """Write under a key, whatever is there."""
        with _answers():
            self._api.put(self._store, key, content, use_multipart=False)

    def fetch(self, key: str, to: Path) -> str:
        """Write an object to a file; the SHA-256 of its bytes. Raises FileNotFoundError."""
        digest = hashlib.sha256()
        with to.open("wb") as file:
            for block in self._blocks(key):
                digest.update(block)
                file.write(block)
        return digest.hexdigest()

    def hash(self, key: str) -> str:
        """The SHA-256 of an object's bytes, all of it read. Raises FileNotFoundError."""
        digest = hashlib.sha256()
        for block in self._blocks(key):
            digest.update(block)
        return digest.hexdigest()

    def read(self, key: str) -> bytes:
        """An object's bytes. Raises FileNotFoundError."""
        return b"".join(self._blocks(key))

    def _blocks(self, key: str) -> Iterator[bytes]:
        with _answers():
            for block in self._api.get(self._store, key).stream(min_chunk_size=CHUNK):
                yield bytes(block)

    def size(self, key: str) -> int | None:
        """How many bytes an object has; None without one."""
        with _answers(), contextlib.suppress(FileNotFoundError):
            return int(self._api.head(self._store, key)["size"])
        return None

    def keys(self, prefix: str, before: datetime | None = None) -> Iterator[str]:
        """The keys of all objects in a folder; ``before``: of those written before a moment, with its
        zone."""
        with _answers():
            for some in self._api.list(self._store, prefix):
                yield from (one["path"] for one in some if before is None or one["last_modified"] < before)

    def move(self, key: str, to: str) -> None:
        """Give an object another key. Raises FileNotFoundError."""
        with _answers():
            self._api.copy(self._store, key, to)
            self._api.delete(self._store, key)

    def remove(self, keys: list[str]) -> None:
        """Remove objects; those that are not there are gone already."""
        with _answers(), contextlib.suppress(FileNotFoundError):
            if keys:
                self._api.delete(self._store, keys)


@contextlib.contextmanager
def _answers() -> Iterator[None]:
    from obstore.exceptions import BaseError

    try:
        yield
    except BaseError as error:
        raise ObjectsGoneError(error) from None
    except PermissionError as error:
        raise ObjectsGoneError(error) from None
