from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.field.tasks"
    label = "tasks"
    default_auto_field = "django.db.models.BigAutoField"
