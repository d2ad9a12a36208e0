"""Work belongs to a workspace, and to a trial where it is about one."""

import django.db.models.deletion
from django.db import migrations, models


def fill(apps, schema_editor):
    Job = apps.get_model("jobs", "Job")
    for job in Job.objects.select_related("trial"):
        Job.objects.filter(pk=job.pk).update(workspace_id=job.trial.workspace_id)


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_devices"), ("trials", "0006_budgets"), ("jobs", "0002_leases")]

    operations = [
        migrations.AddField(
            model_name="job", name="workspace",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="accounts.workspace"
            ),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="job", name="workspace",
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="accounts.workspace"),
        ),
        migrations.AlterField(
            model_name="job", name="trial",
            field=models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="trials.trial"
            ),
        ),
    ]
