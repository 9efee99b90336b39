from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.supply"
    label = "supply"
    default_auto_field = "django.db.models.BigAutoField"
