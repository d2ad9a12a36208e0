from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.audit"
    default_auto_field = "django.db.models.BigAutoField"
