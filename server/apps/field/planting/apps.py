from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.planting"
    label = "planting"
    default_auto_field = "django.db.models.BigAutoField"
