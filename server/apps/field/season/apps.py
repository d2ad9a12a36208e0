from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.season"
    label = "scouting"
    default_auto_field = "django.db.models.BigAutoField"
