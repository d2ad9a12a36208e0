from django.apps import AppConfig


class Config(AppConfig):
    name = "apps.demo"
    label = "demo"
