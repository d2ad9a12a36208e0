"""Puts large logs into a database of its own that wait for the worker: run as a script by the tests of the worker."""

from __future__ import annotations

import sys
from pathlib import Path
from uuid import uuid4

import django


def main(readings_m: float, copies: int) -> None:
    django.setup()
    from apps.accounts.models import Membership, User, Workspace
    from apps.field.logs import cleaning, files
    from apps.field.logs.models import YieldLog
    from apps.intake.storing import half_written
    from apps.jobs.services import ask_for
    from apps.trials.models import Block, Strip, Treatment, Trial
    from cultrix_core.harvest.log_columns import guess
    from cultrix_core.simulate.yield_monitor import Combine, drive_along
    from django.conf import settings
    from django.core.files.uploadedfile import SimpleUploadedFile
    from django.utils import timezone

    workspace = Workspace.objects.create(name="Worker's", currency="€")
    user = User.objects.create_user("perrin", password="between-two-terraces")
    Membership.objects.create(user=user, workspace=workspace, role="owner")
    trial = Trial.objects.create(workspace=workspace, title="Long", crop="winter_wheat", season=2026, created_by=user)
    treatment = Treatment.objects.create(trial=trial, position=0)
    block = Block.objects.create(trial=trial, number=1)
    rings = [[[x, 0.0], [x + 6, 0.0], [x + 6, readings_m], [x, readings_m]] for x in (0.0, 6.0, 12.0, 18.0)]
    for order, ring in enumerate(rings, start=1):
        Strip.objects.create(trial=trial, block=block, order=order, treatment=treatment, ring=ring)
    text = drive_along(rings, [7000.0] * 4, Combine(interval_s=0.2, runs_on=True), seed=1)
    with half_written(SimpleUploadedFile("long.csv", text.encode()), Path(settings.LOGS)) as half:
        digest, suffix, size = half.digest, ".csv", half.size
        header = files.header(half.path, suffix)
        half.keep_as(files.path_of(digest, suffix))
    columns = {
        role: {"name": column.name, "unit": column.unit, "constant": column.constant}
        for role, column in guess(header["names"]).items()
    }
    for _ in range(copies):
        log = YieldLog.objects.create(
            id=uuid4(),
            trial=trial,
            name="long.csv",
            digest=digest,
            suffix=suffix,
            size=size,
            header=header,
            columns=columns,
            coordinates="metres",
            margin_m=1.0,
            recorded_at=timezone.now(),
            recorded_by=user,
        )
        ask_for(
            user,
            cleaning.KIND,
            workspace=trial.workspace,
            trial_id=trial.id,
            subject=log.id,
            inputs_hash=cleaning.inputs_hash(log),
        )


if __name__ == "__main__":
    main(float(sys.argv[1]), int(sys.argv[2]))
