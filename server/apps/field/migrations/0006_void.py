from apps.base.migration_operations import RenameFields
from django.db import migrations


class Migration(migrations.Migration):
    """A record is voided, as everybody says, not struck."""

    dependencies = [("records", "0005_clock_shift")]

    operations = [
        RenameFields(["fieldevent", "harvestload", "samplingplan", "standcount"], {"struck": "voided", "struck_reason": "void_reason"}),
    ]
