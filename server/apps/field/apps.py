from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field"
    label = "records"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from apps.field import followers, kinds  # noqa: F401, PLC0415 - registers the kinds of record and who follows what
