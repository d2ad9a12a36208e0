from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.samples"
    label = "estimates"
    default_auto_field = "django.db.models.BigAutoField"
