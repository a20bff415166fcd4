"""A real object store with S3's interface for the nightly run: Ceph's gateway over one monitor and one store in
memory, on loopback. Unlike the stand-in it checks signatures and what is sent against its sum."""

from __future__ import annotations

import contextlib
import os
import subprocess
import time
import urllib.request
import uuid
from collections.abc import Iterator
from pathlib import Path

from sequor.launch.mariadb import free_port

CONFIGURATION = """
[global]
fsid = {fsid}
mon host = v2:127.0.0.1:{monitor}
auth cluster required = cephx
auth service required = cephx
auth client required = cephx
osd pool default size = 1
osd pool default min size = 1
osd pool default pg num = 1
osd pool default pgp num = 1
mon allow pool size one = true
osd crush chooseleaf type = 0
osd objectstore = memstore
memstore device bytes = 4294967296
osd max object name len = 256
osd max object namespace len = 64
public network = 127.0.0.0/8
ms bind ipv6 = false
admin socket = {folder}/$name.asok
run dir = {folder}
crash dir = {folder}
keyring = {folder}/$name.keyring
log file = {folder}/$name.log
pid file = {folder}/$name.pid
mon cluster log file = {folder}/cluster.log
mon data = {folder}/mon
osd data = {folder}/osd
rgw data = {folder}/rgw
rgw frontends = beast endpoint=127.0.0.1:{gateway}
"""
ANSWERS_WITHIN = 240.0


@contextlib.contextmanager
def gateway(folder: Path, key: str, secret: str) -> Iterator[str]:
    """Its address, with one user who has this key."""
    for name in ("mon", "osd", "rgw"):
        (folder / name).mkdir()
    ports = {"monitor": free_port(), "gateway": free_port()}
    configuration = folder / "ceph.conf"
    told = CONFIGURATION.format(fsid=uuid.uuid4(), folder=folder, **ports)
    configuration.write_text(told)
    environment = {**os.environ, "CEPH_CONF": str(configuration)}
    out = (folder / "out").open("ab")

    def ran(*command: str) -> None:
        # What has just been begun is not there at once for who asks for it.
        deadline = time.monotonic() + ANSWERS_WITHIN
        while subprocess.run(command, env=environment, stdout=out, stderr=out, check=False).returncode:
            assert time.monotonic() < deadline, f"{command[0]} failed; see {folder / 'out'}"
            time.sleep(1)

    with contextlib.ExitStack() as stack:
        stack.enter_context(out)

        def began(*command: str) -> None:
            process = subprocess.Popen([*command, "-f"], env=environment, stdout=out, stderr=out)
            stack.callback(process.wait)
            stack.callback(process.kill)

        may = ["--cap", "mon", "allow *"]
        first = str(folder / "mon.a.keyring")
        admin = str(folder / "client.admin.keyring")
        ran("ceph-authtool", "--create-keyring", first, "--gen-key", "-n", "mon.", *may)
        more = [*may, "--cap", "osd", "allow *", "--cap", "mgr", "allow *"]
        ran("ceph-authtool", "--create-keyring", admin, "--gen-key", "-n", "client.admin", *more)
        ran("ceph-authtool", first, "--import-keyring", admin)
        where = f"[v2:127.0.0.1:{ports['monitor']}]"
        fsid = told.split("fsid = ")[1].split("\n")[0]
        ran("monmaptool", "--create", "--fsid", fsid, "--addv", "a", where, str(folder / "monmap"))
        ran(
            *("ceph-mon", "-i", "a", "--mkfs", "--monmap", str(folder / "monmap")),
            *("--mon-data", str(folder / "mon"), "--keyring", first),
        )
        began("ceph-mon", "-i", "a")
        ran("ceph", "osd", "create")
        rights = ["mon", "allow profile osd", "osd", "allow *", "mgr", "allow profile osd"]
        ran("ceph", "auth", "get-or-create", "osd.0", *rights, "-o", str(folder / "osd.0.keyring"))
        ran("ceph-osd", "-i", "0", "--mkfs", "--no-mon-config", "--osd-uuid", str(uuid.uuid4()))
        began("ceph-osd", "-i", "0")
        ran("ceph", "osd", "crush", "add", "osd.0", "1", "root=default")
        own = str(folder / "client.rgw.keyring")
        ran("ceph", "auth", "get-or-create", "client.rgw", "mon", "allow rwx", "osd", "allow rwx", "-o", own)
        began("radosgw", "-n", "client.rgw", "-k", own)
        address = f"http://127.0.0.1:{ports['gateway']}"
        _wait_for(address)
        user = ["--uid=tests", "--display-name=tests", f"--access-key={key}", f"--secret-key={secret}"]
        ran("radosgw-admin", "user", "create", *user)
        yield address


def _wait_for(address: str) -> None:
    deadline = time.monotonic() + ANSWERS_WITHIN
    while True:
        try:
            with urllib.request.urlopen(address, timeout=10):
                return
        except (TimeoutError, OSError):
            assert time.monotonic() < deadline, "the gateway did not come up"
            time.sleep(0.5)
