from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.workshop"
    label = "workshop"
    default_auto_field = "django.db.models.BigAutoField"
