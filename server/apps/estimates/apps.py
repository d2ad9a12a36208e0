from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.estimates"
    label = "estimates"
    default_auto_field = "django.db.models.BigAutoField"
