from apps.base.migration_operations import RenameFields
from django.db import migrations


class Migration(migrations.Migration):
    """A record is voided, as everybody says, not struck."""

    dependencies = [("planting", "0002_clock_shift")]

    operations = [
        RenameFields(["calibration", "depthcheck", "deviation", "plantingrecord", "seedbedcheck", "tillagepass"], {"struck": "voided", "struck_reason": "void_reason"}),
    ]
