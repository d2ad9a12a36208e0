from apps.base.migration_operations import AlterFields
from django.db import migrations, models


class Migration(migrations.Migration):
    """A trial may be judged by a trait of one's own, whose key is long."""

    dependencies = [
        ('trials', '0013_origin'),
    ]

    operations = [
        AlterFields(
            ["trial", "historicaltrial"],
            "primary_response",
            models.CharField(max_length=260, default="yield", help_text="yield, net_return or a recorded response"),
        )
    ]
