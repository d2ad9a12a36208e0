from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.attachments"
    label = "attachments"
    default_auto_field = "django.db.models.BigAutoField"
