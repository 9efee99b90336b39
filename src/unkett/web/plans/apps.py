from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.plans"
    label = "plans"
    default_auto_field = "django.db.models.BigAutoField"
