from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.bikes"
    label = "bikes"
    default_auto_field = "django.db.models.BigAutoField"
