from apps.base.migration_operations import AlterFields
from django.db import migrations, models


class Migration(migrations.Migration):
    """The key of a trait of one's own says what it is, and is longer than those of the catalogue."""

    dependencies = [
        ('scouting', '0001_squashed_0002_clock_shift'),
    ]

    operations = [
        AlterFields(
            ["plantmeasure", "historicalplantmeasure", "rating", "historicalrating"],
            "trait",
            models.CharField(max_length=240, help_text="Of the catalogue, or of one's own, whose key says what it is"),
        )
    ]
