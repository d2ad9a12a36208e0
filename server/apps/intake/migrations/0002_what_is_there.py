"""Space that was taken before there were limits: each file once, for the workspace that had it first."""

from pathlib import Path

from django.conf import settings
from django.db import migrations


def count_what_is_there(apps, _editor):
    upload = apps.get_model("intake", "Upload")
    seen = set()
    for log in apps.get_model("yieldlogs", "YieldLog").objects.select_related("trial").order_by("received_at"):
        if log.digest not in seen:
            seen.add(log.digest)
            upload.objects.create(workspace_id=log.trial.workspace_id, kind="log", kept_bytes=log.size)
    for photo in apps.get_model("scouting", "Photo").objects.select_related("strip__trial").order_by("received_at"):
        path = Path(settings.PHOTOS) / photo.digest[:2] / f"{photo.digest}.jpg"
        if photo.digest not in seen and path.exists():
            seen.add(photo.digest)
            upload.objects.create(
                workspace_id=photo.strip.trial.workspace_id, kind="photograph", kept_bytes=path.stat().st_size
            )
    upload.objects.update(at="2000-01-01T00:00:00Z")  # long ago: none of them counts for this hour


class Migration(migrations.Migration):
    dependencies = [
        ("intake", "0001_first"),
        ("yieldlogs", "0002_clock_shift"),
        ("scouting", "0002_clock_shift"),
    ]
    operations = [migrations.RunPython(count_what_is_there, migrations.RunPython.noop)]
