from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.backup"
    label = "backup"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from apps.backup import rotation  # noqa: F401, PLC0415 - says which work this app has for the worker
