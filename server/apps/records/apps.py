from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.records"
    label = "records"
    default_auto_field = "django.db.models.BigAutoField"
