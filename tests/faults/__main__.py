"""``make faults``: kills of server, browser and worker, full disks, wrong clocks, two people on one device; prints it all."""

from __future__ import annotations

import argparse
import json
import os
import shutil
import subprocess
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

from tests.faults import browser_kills, server_kills
from tests.faults.installation import Installation, Person, count_of, pause

FULL_MB = 60


def wrong_clock(at: Installation) -> dict[str, int]:
    """Devices from 400 days behind to 400 days ahead that have compared their clocks."""
    at.start()
    person = Person(at, "tobin")
    person.sign_in()
    trial = person.trial()
    strip = trial["strips"][0]["id"]
    off, refused, ids = [-400, -30, -3, 3, 30, 400], 0, []
    for days in off:
        body = {**count_of(strip, 60), "recorded_at": (datetime.now(UTC) + timedelta(days=days)).isoformat()}
        record = str(uuid4())
        status, _ = person.send("PUT", f"/trials/{trial['id']}/stand-counts/{record}", body, X_Clock_Offset=str(-days * 86_400))
        refused += status != 201
        ids.append(record.replace("-", ""))
    late = sum(
        abs(datetime.fromisoformat(f"{row[0]}+00:00") - datetime.now(UTC)) > timedelta(minutes=5)
        for record in ids
        for row in at.ask("SELECT recorded_at FROM records_standcount WHERE id = ?", record)
    )
    at.kill()
    return {"records": len(off), "refused": refused, "at a wrong time": late}


def two_people(at: Installation) -> dict[str, int]:
    """One device: what one person made is sent while the other is signed in."""
    at.start()
    device = Person(at, "ilse")
    device.sign_in()
    trial = device.trial()
    strip, taken = trial["strips"][0]["id"], 0
    ids = [str(uuid4()) for _ in range(20)]
    for record in ids:
        status, _ = device.send("PUT", f"/trials/{trial['id']}/stand-counts/{record}", count_of(strip, 70), X_Person="tobin")
        taken += status != 409
    tobin = Person(at, "tobin")
    tobin.sign_in()
    for record in ids:
        status, _ = tobin.send("PUT", f"/trials/{trial['id']}/stand-counts/{record}", count_of(strip, 70))
        taken += status != 201
    wrong = sum(
        at.ask(
            "SELECT COUNT(*) FROM records_standcount r JOIN accounts_user u ON u.id = r.recorded_by_id"
            " WHERE r.id = ? AND u.username <> 'tobin'",
            record.replace("-", ""),
        )[0][0]
        for record in ids
    )
    at.kill()
    return {"records": len(ids), "taken or refused wrongly": taken, "wrong name": wrong}


def killed_workers(folder: Path, kills: int) -> dict[str, int]:
    """Workers killed in the middle of a log, which another takes again."""
    from tests.server.test_worker import Own, until

    own, lost, stuck = Own(folder), 0, 0
    own.waits(3_000, copies=kills)
    for _ in range(kills):
        with own.worker() as process:
            until(lambda: bool(own.ask("SELECT id FROM jobs_job WHERE state = 'running'")))
            process.kill()
            process.wait()
        own.ask("UPDATE jobs_job SET tries = 1 WHERE tries > 1")
    with own.worker():
        until(lambda: not own.ask("SELECT id FROM jobs_job WHERE state IN ('running', 'waiting')"))
    states = [state for (state,) in own.ask("SELECT state FROM jobs_job")]
    lost, stuck = sum(state != "done" for state in states), sum(state in ("waiting", "running") for state in states)
    return {"kills": kills, "jobs": len(states), "lost": lost + kills - own.results(), "stuck": stuck}


def full_disk(filled: Path) -> dict[str, int] | str:
    """A disk that fills up under the server: sentences and no faults, reading and signing in go on, nothing half written."""
    if os.geteuid() != 0:
        return "not tried: mounting a small disk needs root"
    with tempfile.TemporaryDirectory() as folder:
        mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={FULL_MB}m", "tmpfs", folder], check=False)
        if mounted.returncode:
            return "not tried: a small disk could not be mounted"
        try:
            return _filling(filled, Path(folder))
        finally:
            subprocess.run(["umount", "-l", folder], check=False)


def _filling(filled: Path, folder: Path) -> dict[str, int]:
    shutil.copytree(filled, folder / "var")
    at = Installation(folder / "var", CULTRIX_RESERVE_MB="2")
    at.start()
    person = Person(at, "tobin")
    person.sign_in()
    trial = person.trial()
    strip, kept, refused, faults = trial["strips"][0]["id"], [], 0, 0
    free = shutil.disk_usage(folder).free
    (folder / "ballast").write_bytes(bytes(max(free - 3_000_000, 0)))
    for number in range(400):
        record = str(uuid4())
        status, answer = person.send("PUT", f"/trials/{trial['id']}/stand-counts/{record}", count_of(strip, 80 + number % 9))
        if status == 201:
            kept.append(record)
        elif status == 507 and "nearly full" in answer["message"]:
            refused += 1
            if refused == 3:
                (folder / "more").write_bytes(bytes(max(shutil.disk_usage(folder).free - 100_000, 0)))  # less than the reserve
            if refused > 12:
                break
        else:
            faults += 1
    faults += person.send("GET", f"/trials/{trial['id']}/stand")[0] != 200
    again = Person(at, "ilse")
    again.until_answered("GET", "/session")
    faults += again.send("POST", "/session", {"username": "ilse", "password": "terrace-demo-2026"})[0] != 200
    at.kill()
    lost = sum(not at.ask("SELECT id FROM records_standcount WHERE id = ?", name.replace("-", "")) for name in kept)
    broken = at.ask("PRAGMA integrity_check")[0][0] != "ok"
    return {"kept": len(kept), "refused in words": refused, "faults": faults, "lost": lost, "broken": int(broken)}


def main() -> int:
    parser = argparse.ArgumentParser(description="Faults on purpose.")
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--browser-kills", type=int, default=50)
    parser.add_argument("--only", default="", help="one part: server, browser, worker, disk, clock, people")
    asked = parser.parse_args()
    result: dict[str, object] = {}
    with tempfile.TemporaryDirectory(prefix="cultrix-faults-") as name:
        folder = Path(name)
        filled = Installation(folder / "filled")
        filled.fill()

        def fresh(part: str) -> Installation:
            shutil.copytree(folder / "filled", folder / part)
            # nobody sends so many pictures in an hour as these do
            return Installation(folder / part, CULTRIX_UPLOADS_AN_HOUR="1000000")

        parts = {
            "clock": lambda: wrong_clock(fresh("clock")),
            "people": lambda: two_people(fresh("people")),
            "disk": lambda: full_disk(folder / "filled"),
            "worker": lambda: killed_workers(_made(folder / "worker"), 10),
            "browser": lambda: browser_kills.killed(fresh("browser"), folder / "profile", asked.browser_kills),
            "server": lambda: server_kills.killed(fresh("server"), asked.kills),
        }
        for part, work in parts.items():
            if asked.only in ("", part):
                result[part] = work()
                print(part, json.dumps(result[part]), flush=True)
    bad = (
        "lost",
        "doubled",
        "wrong name",
        "stuck",
        "broken",
        "faults",
        "refused",
        "at a wrong time",
        "taken or refused wrongly",
    )
    wrong = {part: row for part, row in result.items() if isinstance(row, dict) and any(row.get(key) for key in bad)}
    print("All of it held." if not wrong else f"NOT HELD: {json.dumps(wrong)}")
    pause(0)
    return 1 if wrong else 0


def _made(folder: Path) -> Path:
    folder.mkdir()
    return folder


if __name__ == "__main__":
    raise SystemExit(main())
