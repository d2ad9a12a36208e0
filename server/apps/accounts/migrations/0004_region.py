from typing import Any

from django.db import migrations, models

OF_SYSTEM = {"us": "us", "metric": "europe"}


def region_of_units(apps: Any, schema_editor: Any) -> None:  # noqa: ARG001 - Django passes both
    """A workspace whose new people read US units lies in that region.

    Who reads the units of all their workspaces goes on reading them, now as the workspaces' own; any other choice stays.
    """
    for user in apps.get_model("accounts", "User").objects.all():
        if {one.workspace.unit_system for one in user.memberships.select_related("workspace")} == {user.unit_system}:
            user.unit_system = "home"
            user.save(update_fields=["unit_system"])
    for workspace in apps.get_model("accounts", "Workspace").objects.all():
        workspace.region = OF_SYSTEM[workspace.unit_system]
        workspace.save(update_fields=["region"])


class Migration(migrations.Migration):
    dependencies = [("accounts", "0003_people")]

    operations = [
        migrations.AddField("workspace", "region", models.CharField(default="europe", max_length=20)),
        migrations.AddField("workspace", "region_changes", models.JSONField(blank=True, default=dict)),
        migrations.AddField(
            "workspace",
            "own_crops",
            models.JSONField(blank=True, default=list, help_text="Keys of crops that the catalogue does not have"),
        ),
        migrations.RunPython(region_of_units, migrations.RunPython.noop),
        migrations.RemoveField("workspace", "unit_system"),
        migrations.AlterField(
            "user",
            "unit_system",
            models.CharField(
                choices=[("home", "As the workspace"), ("metric", "Metric"), ("us", "US customary")],
                default="home",
                max_length=6,
            ),
        ),
    ]
