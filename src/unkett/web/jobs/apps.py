from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.jobs"
    label = "jobs"
    default_auto_field = "django.db.models.BigAutoField"
