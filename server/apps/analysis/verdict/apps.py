from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.analysis.verdict"
    label = "verdicts"
    default_auto_field = "django.db.models.BigAutoField"
