from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "apps.reports"
    default_auto_field = "django.db.models.BigAutoField"
