from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.trials"
    label = "trials"
    default_auto_field = "django.db.models.BigAutoField"
