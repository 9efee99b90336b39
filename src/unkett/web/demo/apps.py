from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.demo"
    label = "demo"
