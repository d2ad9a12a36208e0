"""Trials that stand keep their pairs; what is made from now on is answered by a curve."""

from django.db import migrations, models

CHOICES = [("curve", "A curve"), ("pairs", "Pairs of levels")]
HELP = "What answers for a factor that is an amount at three levels or more"


def column(default):
    return models.CharField(max_length=6, choices=CHOICES, default=default, help_text=HELP)


class Migration(migrations.Migration):
    dependencies = [("trials", "0008_own_crops")]

    operations = [
        operation(model_name=model, name="amounts_by", field=column(default))
        for operation, default in ((migrations.AddField, "pairs"), (migrations.AlterField, "curve"))
        for model in ("trial", "historicaltrial")
    ]
