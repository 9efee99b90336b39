from importlib import import_module

from django.apps import AppConfig


class Config(AppConfig):
    name = "unkett.web.workshop"
    label = "workshop"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Connect what listens to sign-ins, whatever is imported first."""
        import_module("unkett.web.workshop.security")
