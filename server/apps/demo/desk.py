"""What people of the demo arrange at the desk: tasks, a variable of their own, files beside a trial and a lot."""

from __future__ import annotations

from datetime import date
from uuid import UUID, uuid5

from cultrix_core.season.own_traits import OwnTrait, own_trait_key
from django.core.files.uploadedfile import SimpleUploadedFile

from apps.accounts.models import User, Workspace
from apps.demo.seasons import rate
from apps.demo.writing import strips_of
from apps.farms.models import SeedLot
from apps.field.attachments.services import attach
from apps.field.season.own_traits import offer
from apps.field.tasks.services import put_task
from apps.trials.models import Trial

STAY_GREEN = OwnTrait(name="Stay green", way="rating", low=0, high=5, words=("dry", "all green"), better="more")
LABORATORY = """sample,strip,protein_pct,moisture_pct
VG-2611,1,11.8,13.9
VG-2612,2,11.4,14.1
VG-2613,3,11.9,13.8
"""


def desk(people: dict[str, User], workspace: Workspace, lots: dict[str, SeedLot]) -> None:
    """Tasks, variables and files, on the trials that are there."""
    lead, tobin = people["ilse"], people["tobin"]
    trials = {trial.title: trial for trial in workspace.trials.all()}
    offer(lead, workspace.id, STAY_GREEN, crop="maize", days="")
    maize = next(trial for title, trial in trials.items() if trial.crop == "maize" and trial.season == 2026 and "rate" in title)
    for strip in strips_of(maize):
        rate(tobin, maize, own_trait_key(STAY_GREEN), date(2026, 8, 28), strip, 3 + (strip.order + strip.received.position) % 2)
    wheat = next(trial for trial in trials.values() if trial.crop == "winter_wheat" and trial.season == 2027)
    _task(lead, wheat, tobin, "Finish the full count", note="Strips 8 onwards; the hoop hangs in the barn.")
    _task(lead, maize, tobin, "Rate stay green", hours="1.5", done=True)
    width = next(
        trial for title, trial in trials.items() if title.startswith("Row width in winter wheat") and trial.season == 2026
    )
    sheet = SimpleUploadedFile("grain-protein-2026.csv", LABORATORY.encode(), content_type="text/csv")
    attach(lead, width, _key(width.id, "sheet"), kind="laboratory", note="Grain of three strips, protein as is", file=sheet)
    lot = next(iter(lots.values()))
    label = SimpleUploadedFile("label.txt", f"{lot}\nMade up for the demo.\n".encode(), content_type="text/plain")
    attach(tobin, lot, _key(lot.id, "label"), kind="label", note="Typed off the bag", file=label)


def _task(lead: User, trial: Trial, person: User, what: str, *, note: str = "", hours: str = "", done: bool = False) -> None:
    put_task(
        lead,
        trial.id,
        _key(trial.id, what),
        ref="",
        what=what,
        due_on=None,
        given_to=person.username if person.is_active else "",
        note=note,
        hours=hours,
        done=done,
        version=None,
    )


def _key(home: UUID, name: str) -> UUID:
    return uuid5(home, name)
