from apps.base.migration_operations import RenameFields
from django.db import migrations


class Migration(migrations.Migration):
    """A record is voided, as everybody says, not struck."""

    dependencies = [("scouting", "0002_clock_shift")]

    operations = [
        RenameFields(["dugplant", "photo", "plantmeasure", "rating", "taperun"], {"struck": "voided", "struck_reason": "void_reason"}),
    ]
