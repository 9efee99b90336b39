"""Who is signed in, fetched together with their workshop: every page asks for both."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.backends import ModelBackend

from unkett.web.workshop.models import User


class WithWorkshop(ModelBackend):
    """Django's own backend with one query for person and workshop."""

    def get_user(self, user_id: Any) -> User | None:
        user = User.objects.select_related("workshop").filter(pk=user_id).first()
        return user if user is not None and self.user_can_authenticate(user) else None
