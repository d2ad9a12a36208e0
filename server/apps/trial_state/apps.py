from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.trial_state"
    label = "summaries"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from apps.trial_state import changes  # noqa: PLC0415 - once every model is there

        changes.follow()
