from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.rulebook"
    label = "rulebook"
    default_auto_field = "django.db.models.BigAutoField"
