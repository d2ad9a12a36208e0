from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.weather"
    label = "weather"
    default_auto_field = "django.db.models.BigAutoField"
