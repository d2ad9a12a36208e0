from apps.base.migration_operations import AlterFields
from django.db import migrations, models


class Migration(migrations.Migration):
    """The key of a crop of one"s own is longer than those of the catalogue."""

    dependencies = [("trials", "0007_responsible")]

    operations = [AlterFields(["trial", "historicaltrial"], "crop", models.CharField(max_length=64))]
