from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.tasks"
    label = "tasks"
    default_auto_field = "django.db.models.BigAutoField"
