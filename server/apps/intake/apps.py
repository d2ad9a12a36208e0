from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.intake"
    label = "intake"
    default_auto_field = "django.db.models.BigAutoField"
