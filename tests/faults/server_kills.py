"""The server is killed over and over while two people send counts, loads and photographs."""

from __future__ import annotations

import random
import threading
from pathlib import Path
from uuid import uuid4

from tests.faults.installation import Installation, Person, count_of, load_of, pause, photo_of

KINDS = {"count": "records_standcount", "load": "records_harvestload", "photo": "scouting_photo"}


def killed(at: Installation, kills: int) -> dict[str, int]:
    """Kills the server so many times; returns what was acknowledged, lost, doubled, under a wrong name, stuck."""
    rng = random.Random(7)
    at.start()
    stop = threading.Event()
    acknowledged: list[tuple[str, str, str]] = []
    stuck: list[str] = []
    people = [_sender(at, name, kind, stop, acknowledged, stuck) for name in ("tobin", "ilse") for kind in KINDS]
    while len({(name, kind) for kind, _, name in acknowledged}) < len(people) and not stuck:
        pause(0.2)  # everybody is signed in and at work before the first kill
    for turn in range(kills):
        pause(rng.uniform(0.05, 2.5))
        at.kill()
        at.start()
        if turn % 20 == 19:
            print(f"  {turn + 1} kills, {len(acknowledged)} acknowledged", flush=True)
    stop.set()
    for person in people:
        person.join(120)
    for words in stuck:
        print(f"  stuck: {words}", flush=True)
    result = _counted(at, acknowledged) | {"kills": kills, "stuck": len(stuck) + sum(person.is_alive() for person in people)}
    at.kill()
    return result


def _sender(
    at: Installation, name: str, kind: str, stop: threading.Event, acknowledged: list[tuple[str, str, str]], stuck: list[str]
) -> threading.Thread:
    def work() -> None:
        try:
            person = Person(at, name)
            person.sign_in()
            trial = person.trial()
            strips = [item["id"] for item in trial["strips"] if not item["lost"]]
            number = 0
            while not stop.is_set():
                number += 1
                record, strip = str(uuid4()), strips[number % len(strips)]
                if _sent(person, trial["id"], kind, record, strip, number):
                    acknowledged.append((kind, record, name))
                pause(0.02)
        except Exception as error:
            stuck.append(f"{name} {kind}: {error!r}")

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    return thread


def _sent(person: Person, trial: str, kind: str, record: str, strip: str, number: int) -> bool:
    if kind == "count":
        status, answer = person.until_answered("PUT", f"/trials/{trial}/stand-counts/{record}", count_of(strip, 100 + number))
    elif kind == "load":
        status, answer = person.until_answered("PUT", f"/trials/{trial}/harvest-loads/{record}", load_of(strip, 1000 + number))
    else:
        form, content_type = photo_of(strip, number)
        status, answer = person.until_answered("POST", f"/trials/{trial}/photos/{record}", form=form, kind=content_type)
    if status not in (200, 201):
        raise AssertionError(f"{status} {answer}")
    return True


def _counted(at: Installation, acknowledged: list[tuple[str, str, str]]) -> dict[str, int]:
    lost = doubled = wrong = 0
    for kind, record, name in acknowledged:
        rows = at.ask(
            f"SELECT u.username FROM {KINDS[kind]} r JOIN accounts_user u ON u.id = r.recorded_by_id WHERE r.id = ?",
            record.replace("-", ""),
        )
        lost += not rows
        doubled += len(rows) > 1
        wrong += any(row[0] != name for row in rows)
        first = f"SELECT COUNT(*) FROM {KINDS[kind].replace('_', '_historical', 1)} WHERE id = ? AND history_type = '+'"
        doubled += at.ask(first, record.replace("-", ""))[0][0] > 1
    missing = [
        digest
        for (digest,) in at.ask("SELECT DISTINCT digest FROM scouting_photo")
        if not (Path(at.var) / "photos" / digest[:2] / f"{digest}.jpg").exists()
    ]
    whole = at.ask("PRAGMA integrity_check")[0][0] == "ok"
    return {
        "acknowledged": len(acknowledged),
        "lost": lost + len(missing),
        "doubled": doubled,
        "wrong name": wrong,
        "broken": not whole,
    }
