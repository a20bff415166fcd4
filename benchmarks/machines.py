"""Workers with folders of their own over one object store: two against one.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.machines

The object store is a stand-in with S3's interface in a process of its own; database and Redis are shared.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import boto3

from benchmarks.crowd import SIX, imported, straightened, until_ended
from sequor.jobs.background import Background
from sequor.jobs.batches import Batches
from sequor.launch.mariadb import MariaDB, free_port
from sequor.recipe.model.export import ExportPart
from sequor.store.database import Store, connect, migrate
from sequor.store.objects import KEY, SECRET, Objects

COUNT, WARM = 60, 8
SERVER = "from moto.server import main; main(['-H', '127.0.0.1', '-p', '{}'])"


@contextlib.contextmanager
def running(*command: str, log: Path) -> Iterator[None]:
    """A program, for as long as it is needed."""
    with log.open("ab") as out:
        process = subprocess.Popen(command, stdout=out, stderr=out)
    try:
        yield
    finally:
        process.terminate()
        process.wait(60)


def answering(address: str) -> None:
    """Make the bucket, as soon as the store answers."""
    client = boto3.client("s3", endpoint_url=address, region_name="us-east-1")
    for _ in range(100):
        with contextlib.suppress(Exception):
            client.create_bucket(Bucket="photos")
            return
        time.sleep(0.2)


def exported(workers: int) -> float:
    """Seconds in which so many workers write the exports."""
    with contextlib.ExitStack() as stack:
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        redis, objects = free_port(), free_port()
        program = shutil.which("redis-server")
        assert program is not None
        log = folder / "log"
        options = ["--bind", "127.0.0.1", "--save", "", "--dir", str(folder)]
        stack.enter_context(running(program, "--port", str(redis), *options, log=log))
        stack.enter_context(running(sys.executable, "-c", SERVER.format(objects), log=log))
        answering(f"http://127.0.0.1:{objects}")
        database = MariaDB(folder / "database")
        stack.callback(database.stop)
        engine = connect(database.url)
        migrate(engine)
        files, broker = f"s3://photos?endpoint=http://127.0.0.1:{objects}", f"redis://127.0.0.1:{redis}/0"
        store = Store(engine, folder / "web", Objects(files))
        photos = imported(store, COUNT, SIX)
        straightened(store)
        for number in range(workers):
            command = [sys.executable, "-m", "sequor.launch.worker", "--lanes", "bulk", "--at-once", "1"]
            command += ["--data", str(folder / f"machine-{number}"), "--database", database.url]
            stack.enter_context(running(*command, "--broker", broker, "--files", files, log=log))
        batches = Batches(store, Background(broker), None)
        batches.export(photos[:WARM], ExportPart(quality=90))
        until_ended(store, "write")
        begun = time.perf_counter()
        number = batches.export(photos, ExportPart()).id
        until_ended(store, "write")
        took = time.perf_counter() - begun
        assert batches.standing(number).states == {"done": COUNT}
        engine.dispose()
        return took


def main() -> None:
    os.environ.update({KEY: "somebody", SECRET: "of the benchmark"})
    one, two = exported(1), exported(2)
    print(f"{COUNT} exports of 6 megapixels: one worker {one:.1f} s, two {two:.1f} s: {one / two:.2f} x")


if __name__ == "__main__":
    main()
