from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.wear"
    label = "wear"
    default_auto_field = "django.db.models.BigAutoField"
