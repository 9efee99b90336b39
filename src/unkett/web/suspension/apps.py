from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.suspension"
    label = "suspension"
    default_auto_field = "django.db.models.BigAutoField"
