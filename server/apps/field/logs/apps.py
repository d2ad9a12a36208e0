from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.logs"
    label = "yieldlogs"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from apps.field.logs import cleaning  # noqa: F401, PLC0415 - says which work this app has for the worker
