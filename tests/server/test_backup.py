"""Backups: one verified file, put back whole or not at all; the older ones give way; a newer database is refused."""

from __future__ import annotations

import hashlib
import json
import os
import sqlite3
import zipfile
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pyrage
import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.backup import archive, migrating, restoring, rotation, schedule, sealing
from apps.backup.errors import BackupError
from apps.backup.locking import alone, together

from tests.server.conftest import Api

PICTURE = b"\xff\xd8 a picture"
LOG = b"t,x,y,v\n1,2,3,4\n" * 2_000
SHEET = b"%PDF-1.4 a laboratory sheet"
PHRASE = "four oaks by the weir"


def digest_of(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


@pytest.fixture
def farm(tmp_path: Path, settings: Any, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with a small database, a photograph, a log, an attachment, a key and a session in it."""
    var = tmp_path / "var"
    var.mkdir()
    settings.VAR, settings.BACKUPS, settings.DISK_RESERVE_BYTES = var, tmp_path / "backups", 0
    settings.MIGRATION_MODULES = {}  # those of the application, which the other tests do without
    (var / "secret.key").write_text("the key")
    picture, log, sheet = digest_of(PICTURE), digest_of(LOG), digest_of(SHEET)
    files = {
        f"photos/{picture[:2]}/{picture}.jpg": PICTURE,
        f"logs/{log[:2]}/{log}.csv": LOG,
        f"attachments/{sheet[:2]}/{sheet}": SHEET,
    }
    for name, content in files.items():
        (var / name).parent.mkdir(parents=True)
        (var / name).write_bytes(content)
    with closing(sqlite3.connect(var / restoring.NAME)) as database, database:
        database.executescript(f"""
            PRAGMA journal_mode = WAL;
            CREATE TABLE django_migrations (app TEXT, name TEXT);
            INSERT INTO django_migrations VALUES ('accounts', '0001_initial');
            CREATE TABLE scouting_photo (digest TEXT);
            INSERT INTO scouting_photo VALUES ('{picture}'), ('{picture}');
            CREATE TABLE yieldlogs_yieldlog (digest TEXT, suffix TEXT, result_hash TEXT);
            INSERT INTO yieldlogs_yieldlog VALUES ('{log}', '.csv', '');
            CREATE TABLE attachments_attachment (digest TEXT);
            INSERT INTO attachments_attachment VALUES ('{sheet}');
            CREATE TABLE django_session (session_key TEXT);
            INSERT INTO django_session VALUES ('alive');
        """)
    monkeypatch.setattr(archive, "database_path", lambda: var / restoring.NAME)
    monkeypatch.setattr(rotation, "database_path", lambda: var / restoring.NAME)
    return var


def rows(folder: Path, sql: str) -> list[Any]:
    with closing(sqlite3.connect(folder / restoring.NAME)) as database:
        return database.execute(sql).fetchall()


@pytest.mark.parametrize("phrase", ["", PHRASE])
def test_there_and_back_is_the_same(phrase: str, farm: Path, tmp_path: Path) -> None:
    file, there = tmp_path / "farm.zip", tmp_path / "new"
    contents = archive.make(file, passphrase=phrase)
    assert len(contents.files) == 5
    assert file.stat().st_mode & 0o077 == 0
    restoring.restore(file, there, passphrase=phrase)
    for name in contents.files:
        place = restoring.NAME if name == archive.DATABASE else name
        if name != archive.DATABASE:
            assert (there / place).read_bytes() == (farm / place).read_bytes()
    for table in ("scouting_photo", "yieldlogs_yieldlog", "django_migrations"):
        assert rows(there, f"SELECT * FROM {table}") == rows(farm, f"SELECT * FROM {table}")
    assert rows(there, "SELECT * FROM django_session") == [], "a copy that is stolen lets nobody in"
    assert rows(farm, "SELECT * FROM django_session") == [("alive",)]
    assert not list(tmp_path.glob(".making-*"))
    assert not list(there.glob(".restoring-*"))


def test_a_sealed_backup_opens_with_its_passphrase_only(farm: Path, tmp_path: Path) -> None:
    del farm
    file = tmp_path / "sealed.zip"
    archive.make(file, passphrase=PHRASE)
    assert sealing.is_sealed(file)
    content = file.read_bytes()
    assert PICTURE not in content
    assert b"the key" not in content
    with pytest.raises(BackupError, match="sealed"):
        restoring.restore(file, tmp_path / "new")
    with pytest.raises(BackupError, match="passphrase is not the one"):
        restoring.restore(file, tmp_path / "new", passphrase="three oaks by the weir")
    for at in (len(content) // 2, len(content) - 40):
        damaged = bytearray(content)
        damaged[at] ^= 1
        file.write_bytes(damaged)
        with pytest.raises(BackupError):
            restoring.restore(file, tmp_path / "new", passphrase=PHRASE)
        assert not (tmp_path / "new" / restoring.NAME).exists()


def test_the_sealed_form_is_age_and_opens_without_this_program(farm: Path, tmp_path: Path) -> None:
    """The format is age's (age-encryption.org/v1): whoever has the passphrase needs nothing of this program."""
    del farm
    file = tmp_path / "sealed.zip"
    archive.make(file, passphrase=PHRASE)
    with zipfile.ZipFile(file) as envelope:
        assert envelope.read(sealing.IDENTITY).startswith(b"age-encryption.org/v1\n-> scrypt ")
        assert envelope.read(sealing.SEALED).startswith(b"age-encryption.org/v1\n-> X25519 ")
        key = pyrage.passphrase.decrypt(envelope.read(sealing.IDENTITY), PHRASE).decode()
        plain = pyrage.decrypt(envelope.read(sealing.SEALED), [pyrage.x25519.Identity.from_str(key)])
    assert plain.startswith(b"PK")


def damages(content: bytes) -> dict[str, bytes]:
    """What happens to files on their way."""
    middle = bytearray(content)
    middle[content.index(PICTURE)] ^= 1  # pictures lie in it as they are
    return {
        "cut in half": content[: len(content) // 2],
        "cut at the end": content[:-30],
        "empty": b"",
        "a bit turned": bytes(middle),
        "another file": b"PK\x03\x04 but not really",
        "text": b"hello",
    }


def test_what_was_cut_off_or_altered_is_refused_in_words(farm: Path, tmp_path: Path) -> None:
    del farm
    file, there = tmp_path / "farm.zip", tmp_path / "new"
    archive.make(file)
    for what, content in damages(file.read_bytes()).items():
        broken = tmp_path / f"{what}.zip"
        broken.write_bytes(content)
        with pytest.raises(BackupError) as refused:
            restoring.restore(broken, there)
        assert broken.name in str(refused.value), what
        assert not (there / restoring.NAME).exists(), what
    with pytest.raises(BackupError, match="no file"):
        restoring.restore(tmp_path / "none.zip", there)


@pytest.mark.parametrize("changed", ["a member more", "a member less", "another content", "a path outside", "of tomorrow"])
def test_an_archive_that_was_made_up_is_refused(changed: str, farm: Path, tmp_path: Path) -> None:
    """Readable ZIPs whose manifest and members do not agree, or that would write somewhere else."""
    del farm
    file, other, there = tmp_path / "farm.zip", tmp_path / "other.zip", tmp_path / "deep" / "new"
    archive.make(file)
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(other, "w") as new:
        manifest = json.loads(old.read(archive.MANIFEST))
        for name in old.namelist():
            content = old.read(name)
            if name == archive.MANIFEST or (changed == "a member less" and name == archive.KEY):
                continue
            if changed == "another content" and name == archive.KEY:
                content = b"the kez"
            if changed == "a path outside" and name.startswith("photos"):
                manifest["files"]["../evil.jpg"] = manifest["files"].pop(name)
                name = "../evil.jpg"  # noqa: PLW2901
            new.writestr(name, content)
        if changed == "a member more":
            new.writestr("photos/aa/more.jpg", b"x")
        if changed == "of tomorrow":
            manifest["migrations"]["accounts"].append("9999_flying")
        new.writestr(archive.MANIFEST, json.dumps(manifest))
    with pytest.raises(BackupError, match="newer than this program" if changed == "of tomorrow" else "cut off or altered"):
        restoring.restore(other, there)
    assert not (there / restoring.NAME).exists()
    assert not list(tmp_path.rglob("evil.jpg"))


def test_a_damaged_database_is_neither_backed_up_nor_restored(farm: Path, tmp_path: Path) -> None:
    with closing(sqlite3.connect(farm / restoring.NAME)) as database:
        database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    content = bytearray((farm / restoring.NAME).read_bytes())
    content[4096 + 8 : 4096 + 400] = b"\x7f" * 392
    (farm / restoring.NAME).write_bytes(content)
    with pytest.raises(BackupError, match=r"damaged|cannot be read"):
        archive.make(tmp_path / "farm.zip")
    assert not (tmp_path / "farm.zip").exists()


def test_a_restore_takes_no_place_unasked_and_keeps_what_was_there(farm: Path, tmp_path: Path) -> None:
    file = tmp_path / "farm.zip"
    archive.make(file)
    with closing(sqlite3.connect(farm / restoring.NAME)) as database, database:
        database.execute("INSERT INTO scouting_photo VALUES ('later')")
    with pytest.raises(BackupError, match="--replace"):
        restoring.restore(file, farm)
    handle = together(farm)
    with pytest.raises(BackupError, match="server or a worker runs"):
        restoring.restore(file, farm, replace=True)
    os.close(handle)
    restoring.restore(file, farm, replace=True)
    assert len(rows(farm, "SELECT * FROM scouting_photo")) == 2
    (aside,) = farm.glob("before-restore-*")
    assert len(rows(aside, "SELECT * FROM scouting_photo")) == 3


def test_a_server_does_not_start_in_the_middle_of_a_restore(tmp_path: Path) -> None:
    with alone(tmp_path), pytest.raises(BackupError, match="restore is under way"):
        together(tmp_path)


def test_missing_files_are_told_and_stop_nothing(farm: Path, tmp_path: Path) -> None:
    next((farm / "photos").rglob("*.jpg")).unlink()
    contents = archive.make(tmp_path / "farm.zip")
    assert len(contents.missing) == 1
    assert len(contents.files) == 4


# --- rotation ---------------------------------------------------------------------------------------------------------

NOON = datetime(2026, 11, 29, 12, tzinfo=UTC)


def test_seven_days_four_weeks_and_six_months_are_kept(farm: Path) -> None:
    del farm
    rotation.folder().mkdir()
    for days in range(400):
        (rotation.folder() / f"daily-{NOON - timedelta(days=days):{rotation.STAMP}}.zip").write_bytes(b"x")
    (rotation.folder() / "somebody's own.zip").write_bytes(b"x")
    rotation.let_go(NOON)
    ages = [(NOON - backup.made_at).days for backup in rotation.kept()]
    assert ages[:7] == list(range(7))
    weeks = {f"{NOON - timedelta(days=days):%G-W%V}" for days in ages}
    months = [f"{NOON - timedelta(days=days):%Y-%m}" for days in ages]
    assert len(weeks) >= 4
    assert sorted(set(months))[-6:] == ["2026-06", "2026-07", "2026-08", "2026-09", "2026-10", "2026-11"]
    assert len(ages) <= 7 + 4 + 6
    assert (rotation.folder() / "somebody's own.zip").exists()


def test_a_day_passes_between_daily_ones_and_a_failure_is_told_and_tried_again(farm: Path) -> None:
    assert rotation.is_due(NOON)
    rotation.keep_one("daily", NOON)
    assert not rotation.is_due(NOON + timedelta(hours=23))
    assert rotation.is_due(NOON + timedelta(hours=24))
    assert rotation.state(NOON).well
    (farm / restoring.NAME).rename(farm / "gone")
    with pytest.raises(BackupError):
        rotation.keep_one("daily", NOON + timedelta(hours=24))
    state = rotation.state(NOON + timedelta(hours=24))
    assert not state.well
    assert "no database" in state.words
    assert state.last_good_at == NOON
    assert not rotation.is_due(NOON + timedelta(hours=24, minutes=30))
    assert rotation.is_due(NOON + timedelta(hours=25))
    (farm / "gone").rename(farm / restoring.NAME)
    assert rotation.keep_one("daily", NOON + timedelta(hours=25)).size > 0
    assert rotation.state(NOON + timedelta(hours=25)).well
    assert not rotation.state(NOON + timedelta(hours=80)).well, "older than two days"


def test_the_worker_makes_the_daily_one_and_survives_a_failure(farm: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(schedule, "close_old_connections", lambda: None)
    assert schedule.look()
    assert not schedule.look()
    monkeypatch.setattr(rotation, "is_due", lambda: True)
    (farm / restoring.NAME).unlink()
    assert not schedule.look()


def test_no_backup_is_begun_that_would_fill_the_disk(farm: Path, settings: Any) -> None:
    del farm
    settings.DISK_RESERVE_BYTES = 10**15
    with pytest.raises(BackupError, match="CULTRIX_BACKUPS"):
        rotation.keep_one("daily", NOON)
    assert rotation.kept() == []


def test_the_daily_ones_are_sealed_where_a_passphrase_is_set(farm: Path, settings: Any, tmp_path: Path) -> None:
    del farm
    (tmp_path / "phrase").write_text(f"{PHRASE}\n")
    settings.BACKUP_PASSPHRASE_FILE = str(tmp_path / "phrase")
    backup = rotation.keep_one("daily", NOON)
    assert sealing.is_sealed(rotation.folder() / backup.name)
    settings.BACKUP_PASSPHRASE_FILE = str(tmp_path / "none")
    with pytest.raises(BackupError, match="passphrase"):
        rotation.keep_one("daily", NOON)


# --- versions ---------------------------------------------------------------------------------------------------------


def test_a_newer_database_is_refused_and_an_older_one_copied_first(farm: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    done: list[str] = []
    monkeypatch.setattr(migrating, "database_path", lambda: farm / restoring.NAME)
    monkeypatch.setattr(migrating, "call_command", lambda *what, **_: done.append(str(what[0])))
    monkeypatch.setattr(migrating, "pending", lambda: ["accounts.0002_devices"])
    sentences: list[str] = []
    migrating.bring_up_to_date(sentences.append)
    assert done == ["migrate"]
    assert [backup.kind for backup in rotation.kept()] == ["before-migration"]
    assert rotation.kept()[0].name in sentences[-1]
    with closing(sqlite3.connect(farm / restoring.NAME)) as database, database:
        database.execute("INSERT INTO django_migrations VALUES ('trials', '9999_later'), ('axes', '0001_initial')")
    with pytest.raises(BackupError, match=r"trials\.9999_later"):
        migrating.bring_up_to_date(sentences.append)
    assert done == ["migrate"]


def test_without_a_copy_nothing_is_changed(farm: Path, monkeypatch: pytest.MonkeyPatch, settings: Any) -> None:
    done: list[str] = []
    monkeypatch.setattr(migrating, "database_path", lambda: farm / restoring.NAME)
    monkeypatch.setattr(migrating, "call_command", lambda *what, **_: done.append(str(what[0])))
    monkeypatch.setattr(migrating, "pending", lambda: ["accounts.0002_devices"])
    settings.DISK_RESERVE_BYTES = 10**15
    with pytest.raises(BackupError, match="--without-backup"):
        migrating.bring_up_to_date(print)
    assert done == []
    migrating.bring_up_to_date(print, without_backup=True)
    assert done == ["migrate"]


# --- who may ----------------------------------------------------------------------------------------------------------


def test_only_who_leads_every_workspace_takes_a_backup_away(lead: Api, outsider: Api, workspace: Workspace) -> None:
    """An archive holds all workspaces and the key, so a lead of one must not have it."""
    path = f"/workspaces/{workspace.id}/backups"
    rotation.folder().mkdir()
    name = f"daily-{NOON:{rotation.STAMP}}.zip"
    (rotation.folder() / name).write_bytes(b"everything")
    (rotation.folder() / "state.json").write_text("{}")
    assert not lead.ok("get", path)["may_take"]
    assert lead.ok("get", path)["kept"] == []
    for method, where in (("get", f"{path}/{name}"), ("post", path)):
        assert lead.call(method, where).status_code == 403
    theirs = Workspace.objects.get(name="Elsewhere")
    theirs.practice = True
    theirs.save()
    taken = lead.call("get", f"{path}/{name}")
    assert b"".join(taken.streaming_content) == b"everything"
    for other in ("state.json", "..", "%2e%2e%2fsecret.key", "daily-2020-01-01T000000Z.zip"):
        assert lead.call("get", f"{path}/{other}").status_code == 404
    theirs.practice = False
    theirs.save()
    Membership.objects.filter(user__username="stranger").update(role="reader")
    User.objects.filter(username="mirren").update(is_superuser=True)
    assert lead.call("get", f"{path}/{name}").status_code == 200, "the owner of the installation"
    assert outsider.call("get", f"{path}/{name}").status_code == 404
