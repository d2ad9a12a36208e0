from django.apps import AppConfig


class MoneyConfig(AppConfig):
    name = "apps.money"
    default_auto_field = "django.db.models.BigAutoField"
