"""bin/start: what stands in the way is said in one line; what was stored is there again."""

from __future__ import annotations

import json
import shutil
import socket
import subprocess
import urllib.request
from pathlib import Path
from types import SimpleNamespace

import pytest
from starting import free_arguments, said, started

from sequor.launch import mariadb
from sequor.launch.mariadb import MariaDB, StartError, free_port
from sequor.launch.serve import main

ROOT = Path(__file__).resolve().parents[2]


def photos(address: str) -> list[dict[str, object]]:
    with urllib.request.urlopen(f"{address}api/photos", timeout=20) as answer:
        listed: list[dict[str, object]] = json.load(answer)["photos"]
        return listed


def as_it_was(photo: dict[str, object]) -> dict[str, object]:
    """A photo without what Sequor finds on it meanwhile."""
    return {name: value for name, value in photo.items() if name not in ("proposal", "sure")}


def test_demo_photos_on_the_first_start_and_all_is_there_after_the_second(tmp_path: Path) -> None:
    with started(tmp_path) as (address, process):
        first = photos(address)
        assert [photo["title"] for photo in first][:2] == ["Reservoir shore", "Grain mill, front"]
        assert len(first) == 10
        run = subprocess.run(
            ["pgrep", "-P", str(process.pid), "mariadbd"], capture_output=True, text=True, check=False
        )
        database = int(run.stdout)
    assert process.returncode == 0
    assert not Path(f"/proc/{database}").exists()
    with started(tmp_path) as (address, _):
        assert [as_it_was(one) for one in photos(address)] == [as_it_was(one) for one in first]


def test_no_demo(tmp_path: Path) -> None:
    with started(tmp_path, "--no-demo") as (address, _):
        assert photos(address) == []


def test_it_ends_though_nobody_listens_any_more(tmp_path: Path) -> None:
    """A terminal that is gone, or a pipe that is closed, does not keep the program running."""
    with started(tmp_path, "--no-demo") as (_, process):
        assert process.stdout is not None
        process.stdout.close()
    assert process.returncode == 0


def test_a_port_in_use(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        assert "is already in use; choose another with --port" in said(
            capsys, "--port", port, "--data", str(tmp_path)
        )
    assert "not a usable port" in said(capsys, "--port", "99999", "--data", str(tmp_path))


def test_a_half_initialised_database(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "database" / "data" / "mysql").mkdir(parents=True)
    assert "half initialised" in said(capsys, *free_arguments(tmp_path))


def test_a_lost_database(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "database").mkdir()
    (tmp_path / "database" / "initialised").write_text("1")
    assert "lost its system tables" in said(capsys, *free_arguments(tmp_path))


def test_a_full_disk(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(shutil, "disk_usage", lambda path: SimpleNamespace(free=5_000_000))
    assert "is full: 5 MB are free" in said(capsys, *free_arguments(tmp_path))


def test_a_data_folder_that_is_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "file").write_text("x")
    assert "file" in said(capsys, *free_arguments(tmp_path / "file"))


def test_a_database_that_does_not_come_up(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    MariaDB(tmp_path).stop()
    monkeypatch.setattr(mariadb, "CONFIG", mariadb.CONFIG + "no-such-option = 1\n")
    with pytest.raises(StartError, match="did not start: .*no-such-option"):
        MariaDB(tmp_path)


def test_two_programs_on_one_data_folder(tmp_path: Path) -> None:
    first = MariaDB(tmp_path)
    try:
        with pytest.raises(StartError, match="another Sequor is running"):
            MariaDB(tmp_path)
    finally:
        first.stop()


def test_a_killed_database_comes_back_with_what_was_committed(tmp_path: Path) -> None:
    first = MariaDB(tmp_path)
    with first._connect() as connection, connection.cursor() as cursor:
        cursor.execute("CREATE TABLE sequor.kept (id INT)")
        cursor.execute("INSERT INTO sequor.kept VALUES (7)")
        connection.commit()
    assert first._child is not None
    first._child.process.kill()
    first._child.process.wait()
    first.stop()
    second = MariaDB(tmp_path)
    try:
        with second._connect() as connection, connection.cursor() as cursor:
            cursor.execute("SELECT id FROM sequor.kept")
            assert cursor.fetchall() == ((7,),)
    finally:
        second.stop()


@pytest.mark.parametrize("address", ["painter", "http://", "ftp://here"])
def test_an_odd_address_of_a_painter_is_said(
    address: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["--data", str(tmp_path), "--port", str(free_port()), "--painter", address]) == 1
    assert "no address of a painter; write http://host:port, or stand-in" in capsys.readouterr().err


def test_the_stand_in_comes_up_with_the_program_and_ends_with_it(tmp_path: Path) -> None:
    with started(tmp_path, "--no-demo", "--painter", "stand-in") as (address, _):
        with urllib.request.urlopen(f"{address}api/session", timeout=20) as answer:
            assert json.load(answer)["painter"] is True
        (process,) = standing_in(tmp_path)
    assert standing_in(tmp_path) == []
    assert process


def standing_in(data: Path) -> list[int]:
    """The stand-ins that write into a data folder."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            command = (folder / "cmdline").read_bytes()
            if (
                b"sequor.painter.stand_in" in command
                and (folder / "fd" / "1").resolve() == data / "painter.log"
            ):
                found.append(int(folder.name))
        except OSError:
            continue
    return found
