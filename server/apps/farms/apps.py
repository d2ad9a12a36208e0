from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.farms"
    label = "farms"
    default_auto_field = "django.db.models.BigAutoField"
