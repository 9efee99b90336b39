"""What a service may answer instead of doing its work."""


class Refused(Exception):  # noqa: N818 - an answer, not a fault
    """The wish cannot be carried out; the message says why and names the field."""


class Clash(Refused):
    """Somebody else changed the same thing in between; `back` is where to see it as it is now."""

    def __init__(self, says: str, back: str) -> None:
        super().__init__(says)
        self.back = back


class Unlikely(Refused):
    """A reading far from what is usually met: it is kept once it is confirmed."""
