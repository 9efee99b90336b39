from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.catalogue"
    label = "catalogue"
    default_auto_field = "django.db.models.BigAutoField"
