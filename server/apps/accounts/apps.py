from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.accounts"
    label = "accounts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from apps.accounts import leaving  # noqa: F401, PLC0415 - notes who leaves a workspace
