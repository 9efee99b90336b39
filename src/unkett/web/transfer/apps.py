from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.transfer"
    label = "tables"
    default_auto_field = "django.db.models.BigAutoField"
