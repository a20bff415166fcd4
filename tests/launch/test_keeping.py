"""Backup, restore and check; what a start does with data that does not fit."""

from __future__ import annotations

import hashlib
import json
import shutil
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pymysql
import pytest
from alembic import command
from clients import Importer, at_once
from pictures import jpeg_bytes, smooth_picture
from sqlalchemy import Engine, text

from sequor.launch import application, backup, check, restore
from sequor.launch.application import bring_schema_up, refuse_lost_database
from sequor.launch.mariadb import MariaDB, keep_reserve
from sequor.launch.processes import Child, StartError, end_orphan, run_folder
from sequor.operations import checking, photos, revising, sheet
from sequor.store.database import Store, connect, migrate, migration_config, schema_now
from sequor.store.models import Photo, Revision

JPEG = jpeg_bytes(smooth_picture(300, 200))


class Kept:
    """An installation in a folder, with its own database."""

    def __init__(self, data: Path) -> None:
        self.data = data
        self.database = MariaDB(data / "database")
        self.engine: Engine = connect(self.database.url)
        migrate(self.engine)
        self.store = Store(self.engine, data)

    def stop(self) -> None:
        self.engine.dispose()
        self.database.stop()


@pytest.fixture
def kept(tmp_path: Path) -> Iterator[Kept]:
    """A running installation."""
    found = Kept(tmp_path / "data")
    yield found
    found.stop()


def everything(store: Store) -> dict[str, object]:
    """All that must be the same after a restore."""
    with store.transaction() as session:
        photos = [
            (one.id, one.sha256, one.title, one.revision_id, one.changes) for one in session.query(Photo)
        ]
        states = [
            (one.id, one.photo_id, one.parent_id, one.action, one.recipe) for one in session.query(Revision)
        ]
    files = {name: store.originals.path(name).read_bytes() for name in store.originals.all()}
    return {"photos": photos, "states": states, "files": files}


@pytest.mark.parametrize("target", ["folder", "one.tar"])
def test_a_backup_under_edits_brings_all_back(tmp_path: Path, target: str) -> None:
    """Backed up while it is edited, destroyed, restored: what was there when the backup began is there."""
    kept = Kept(tmp_path / "data")
    photo = Importer(kept.store)(JPEG, "jetty.jpg").photo_id
    going, edits = threading.Event(), []

    def edit() -> None:
        while not going.is_set():
            now = photos.get_photo(kept.store, photo)
            recipe = now.recipe
            after = revising.revise(kept.store, photo, now.photo.changes, recipe, f"Action {len(edits)}")
            edits.append(after.revision.id)
            number = len(edits) + 2
            Importer(kept.store, number)(jpeg_bytes(smooth_picture(60, 40, number)), f"{number}.jpg")

    editor = threading.Thread(target=edit)
    editor.start()
    try:
        while len(edits) < 3:
            pass
        before = list(edits)
        where = tmp_path / target
        assert backup.main([str(where), "--data", str(kept.data)]) == 0
    finally:
        going.set()
        editor.join()
    # Once more: what is there by its hash is not copied again.
    if target == "folder":
        inodes = {file: file.stat().st_ino for file in where.glob("originals/*/*")}
        assert backup.main([str(where), "--data", str(kept.data)]) == 0
        assert all(file.stat().st_ino == inode for file, inode in inodes.items())
        before = list(edits)
    truth = everything(kept.store)
    kept.stop()
    shutil.rmtree(kept.data)
    assert restore.main([str(where), "--data", str(kept.data)]) == 0
    again = Kept(kept.data)
    found = everything(again.store)
    if target == "folder":
        assert found == truth
    with again.store.transaction() as session:
        assert {one.id for one in session.query(Revision)} >= set(before)
    assert checking.check(again.store).well
    assert again.store.originals.name(hashlib.sha256(JPEG).hexdigest()) == "jetty.jpg"
    again.stop()
    assert check.main(["--data", str(kept.data)]) == 0


def test_a_restore_sets_aside_what_was_there(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    kept = Kept(tmp_path / "data")
    Importer(kept.store)(JPEG)
    assert backup.main([str(tmp_path / "backup"), "--data", str(kept.data)]) == 0
    Importer(kept.store, 2)(jpeg_bytes(smooth_picture(60, 40)), "later.jpg")
    # Not while it runs.
    assert restore.main([str(tmp_path / "backup"), "--data", str(kept.data)]) == 2
    assert "is running" in capsys.readouterr().err
    kept.stop()
    assert restore.main([str(tmp_path / "backup"), "--data", str(kept.data)]) == 0
    assert list((kept.data / "quarantine").glob("*/database-*/data/sequor"))
    # What came later has no row now; it can be brought in again, by name.
    assert check.main(["--adopt", "--data", str(kept.data)]) == 0
    again = Kept(kept.data)
    assert sorted(one.title for one in sheet.list_photos(again.store)) == ["Later", "Photo"]
    again.stop()


def test_a_damaged_backup_changes_nothing(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    kept = Kept(tmp_path / "data")
    Importer(kept.store)(JPEG)
    assert backup.main([str(tmp_path / "backup"), "--data", str(kept.data)]) == 0
    (database,) = (tmp_path / "backup").glob("*.sql")
    database.write_bytes(database.read_bytes() + b"x")
    before = everything(kept.store)
    kept.stop()
    for wrong, words in (
        (tmp_path / "backup", "is damaged"),
        (tmp_path, "no backup"),
        (tmp_path / "none", "no backup"),
    ):
        assert restore.main([str(wrong), "--data", str(kept.data)]) == 2
        assert words in capsys.readouterr().err
    again = Kept(kept.data)
    assert everything(again.store) == before
    again.stop()


def test_a_check_finds_every_trouble(kept: Kept, capsys: pytest.CaptureFixture[str]) -> None:
    bring = Importer(kept.store)
    whole = bring(JPEG, "whole.jpg").photo_id
    assert check.main(["--data", str(kept.data)]) == 0
    missing, damaged = (bring(jpeg_bytes(smooth_picture(60, 40, n)), f"{n}.jpg").photo_id for n in (1, 2))
    gone = kept.store.originals.path(photos.get_photo(kept.store, missing).photo.sha256)
    gone.unlink()
    hurt = kept.store.originals.path(photos.get_photo(kept.store, damaged).photo.sha256)
    hurt.chmod(0o644)
    hurt.write_bytes(hurt.read_bytes()[:-1] + b"?")
    now = photos.get_photo(kept.store, whole)
    with kept.engine.begin() as connection:
        broken = json.dumps({**now.revision.recipe, "colour": 1})
        connection.execute(
            text("UPDATE revisions SET recipe = :r WHERE id = :i"), {"r": broken, "i": now.revision.id}
        )
    assert check.main(["--data", str(kept.data)]) == 1
    said = capsys.readouterr().out
    assert "Missing: the original of “1”" in said and "Damaged: the original of “2”" in said
    assert "Cannot be read: photo" in said and "colour" in said


def test_only_what_nothing_needs_is_collected_and_only_on_request(kept: Kept) -> None:
    Importer(kept.store)(JPEG)
    stray = kept.store.work / "patch"
    stray.write_bytes(b"patch")
    sha256 = hashlib.sha256(b"patch").hexdigest()
    kept.store.patches.put(stray, sha256)
    (kept.store.screen / ("0" * 64)).mkdir()
    assert check.main(["--data", str(kept.data)]) == 0
    assert kept.store.patches.path(sha256).is_file()
    # What is young may be on its way into a row.
    assert checking.collect(kept.store)[0] == 0
    for path in (kept.store.patches.path(sha256), kept.store.screen / ("0" * 64)):
        assert path.exists()
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(checking, "YOUNG_SECONDS", -1)
        assert checking.collect(kept.store)[0] == 2
    assert len(kept.store.originals.all()) == 1 and len(list(kept.store.screen.iterdir())) == 1


def test_a_start_with_a_lost_database_stops(tmp_path: Path) -> None:
    kept = Kept(tmp_path / "data")
    Importer(kept.store)(JPEG)
    kept.stop()
    shutil.rmtree(kept.data / "database")
    again = Kept(kept.data)
    with pytest.raises(
        StartError, match=r"holds 1 originals, but its database is empty.*bin/restore.*--adopt"
    ):
        refuse_lost_database(again.store, tmp_path)
    assert len(again.store.originals.all()) == 1
    again.stop()
    assert check.main(["--adopt", "--data", str(kept.data)]) == 0
    third = Kept(kept.data)
    refuse_lost_database(third.store, tmp_path)
    assert [one.file_name for one in sheet.list_photos(third.store)] == ["photo.jpg"]
    third.stop()


def test_a_start_that_was_broken_off_in_the_demo_photos_goes_on(kept: Kept, tmp_path: Path) -> None:
    demo = tmp_path / "demo"
    demo.mkdir()
    (demo / "wendlow_shore.jpg").write_bytes(JPEG)
    kept.store.originals.put(demo / "wendlow_shore.jpg", hashlib.sha256(JPEG).hexdigest())
    refuse_lost_database(kept.store, demo)
    (kept.data / application.DEMO_DONE).touch()
    with pytest.raises(StartError):
        refuse_lost_database(kept.store, demo)


def test_data_of_a_newer_program_is_left_alone(kept: Kept) -> None:
    with kept.engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    with pytest.raises(StartError, match="made by a newer Sequor.*Nothing was changed"):
        bring_schema_up(kept.engine, kept.database)


def test_of_several_programs_that_start_at_once_one_migrates(
    kept: Kept, monkeypatch: pytest.MonkeyPatch
) -> None:
    command.downgrade(migration_config(kept.engine), "0008")
    migrated = []

    def counted(engine: Engine) -> None:
        migrated.append(engine)
        time.sleep(0.5)
        migrate(engine)

    monkeypatch.setattr(application, "migrate", counted)
    engines = [connect(kept.database.url) for _ in range(4)]
    at_once(4, lambda number: bring_schema_up(engines[number], kept.database))
    for engine in engines:
        engine.dispose()
    assert len(migrated) == 1
    assert len(set(schema_now(kept.engine))) == 1


def test_a_migration_that_fails_leaves_all_as_it_was(kept: Kept, monkeypatch: pytest.MonkeyPatch) -> None:
    """MariaDB cannot take table changes back, so the database is written out before and read in again."""
    command.downgrade(migration_config(kept.engine), "0003")
    with kept.engine.begin() as connection:
        for name in ("wide", "wide"):
            connection.execute(
                text("INSERT INTO own_ratios (name, ratio, created_at) VALUES (:n, '2:1', NOW())"),
                {"n": name},
            )

    def half(engine: Engine) -> None:
        with engine.begin() as connection:
            connection.execute(text("DROP TABLE own_ratios"))
        raise RuntimeError("no such thing")

    with monkeypatch.context() as patched:
        patched.setattr(application, "migrate", half)
        with pytest.raises(StartError, match="could not be brought from schema 0003 to .*no such thing"):
            bring_schema_up(kept.engine, kept.database)
    with kept.engine.connect() as connection:
        assert [row[0] for row in connection.execute(text("SELECT name FROM own_ratios"))] == ["wide", "wide"]
    # And the real one goes through, names that were given twice told apart.
    bring_schema_up(kept.engine, kept.database)
    with kept.engine.connect() as connection:
        names = [row[0] for row in connection.execute(text("SELECT name FROM own_ratios ORDER BY id"))]
    assert names == ["wide", "wide 2"]


def test_nobody_else_on_this_computer_reaches_the_database(kept: Kept) -> None:
    assert oct((kept.data / "database").stat().st_mode)[-3:] == "700"
    assert oct((kept.data / "database" / "password").stat().st_mode)[-3:] == "600"
    for user in ("root", "mysql", "", "sequor"):
        with pytest.raises(pymysql.err.OperationalError):
            pymysql.connect(host="127.0.0.1", port=kept.database.port, user=user, password="")
    with kept.engine.connect() as connection:
        assert connection.scalar(text("SELECT @@local_infile")) == 0
        assert str(connection.scalar(text("SELECT @@secure_file_priv"))).rstrip("/").endswith("files")
        granted = " ".join(row[0] for row in connection.execute(text("SHOW GRANTS")))
        assert "FILE" not in granted and "SUPER" not in granted and "ALL PRIVILEGES" not in granted
        # The server reads no file for it.
        assert connection.scalar(text("SELECT LOAD_FILE('/etc/hostname')")) is None


def test_a_folder_of_before_is_locked_too(tmp_path: Path) -> None:
    """Data that was made when root had no password."""
    first = MariaDB(tmp_path)
    with first._connect() as connection, connection.cursor() as cursor:
        cursor.execute("CREATE USER root@'127.0.0.1'")
        cursor.execute("GRANT ALL ON *.* TO root@'127.0.0.1'")
    first.stop()
    second = MariaDB(tmp_path)
    try:
        with pytest.raises(pymysql.err.OperationalError):
            pymysql.connect(host="127.0.0.1", port=second.port, user="root")
    finally:
        second.stop()


def test_a_database_that_ends_is_started_again(kept: Kept) -> None:
    photo = Importer(kept.store)(JPEG).photo_id
    assert kept.database._child is not None
    first = kept.database._child
    first.process.kill()
    for _ in range(300):
        try:
            assert photos.get_photo(kept.store, photo).photo.id == photo
            break
        except Exception:
            threading.Event().wait(0.1)
    assert kept.database._child is not first
    assert photos.get_photo(kept.store, photo)


def test_the_reserve_is_let_go_of_when_the_disk_is_full(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from types import SimpleNamespace

    reserve, free = tmp_path / "reserve", [10**9]
    monkeypatch.setattr(shutil, "disk_usage", lambda path: SimpleNamespace(free=free[0]))
    keep_reserve(reserve)
    assert reserve.stat().st_size > 10**7
    free[0] = 10**7
    keep_reserve(reserve)
    assert not reserve.exists()
    free[0] = 10**8
    keep_reserve(reserve)
    assert not reserve.exists()


def test_only_its_own_orphan_is_ended(tmp_path: Path) -> None:
    note = tmp_path / "sleep.pid"
    child = Child(["sleep", "100"], note, -1)
    told = json.loads(note.read_text())
    # The same number, but begun at another moment: a stranger.
    note.write_text(json.dumps({**told, "began": ["another boot", "1"]}))
    assert not end_orphan(note) and not child.ended and not note.exists()
    note.write_text(json.dumps(told))
    assert end_orphan(note)
    assert child.process.wait(5) != 0
    assert not end_orphan(note)
    for odd in ("", "x", "{}", '{"pid": 1}', '{"pid": "1", "began": null}'):
        note.write_text(odd)
        assert not end_orphan(note)


def test_the_folder_of_sockets_is_its_owners_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import tempfile

    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    folder = run_folder(tmp_path / "data")
    assert folder == run_folder(tmp_path / "data") and oct(folder.stat().st_mode)[-3:] == "700"
    folder.rmdir()
    folder.symlink_to(tmp_path)
    with pytest.raises((StartError, FileExistsError)):
        run_folder(tmp_path / "data")
    assert folder.is_symlink()
