from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.report"
    label = "reports"
    default_auto_field = "django.db.models.BigAutoField"
