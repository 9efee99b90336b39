"""What a service may answer instead of doing its work; the pages make addresses and status codes of it."""

from __future__ import annotations

from django.db.models import Model


class Refused(Exception):  # noqa: N818 - an answer, not a fault
    """The wish cannot be carried out; the message says why and names the field."""


class Conflict(Refused):
    """Somebody else changed the same thing in between; `about` is that thing as it is now."""

    def __init__(self, says: str, about: Model) -> None:
        super().__init__(says)
        self.about = about


class NotThere(Exception):  # noqa: N818 - an answer, not a fault
    """There is no such thing, or it is another workshop's: nobody is reported which."""


class NotAllowed(Exception):  # noqa: N818 - an answer, not a fault
    """The actor's role does not include this."""
