"""What an actor may see of the bikes and their parts: their own workshop's."""

from django.db.models import QuerySet

from unkett.web.bikes.models import Bike, BikePart, Status
from unkett.web.workshop.models import User


def every_bike_of(actor: User) -> QuerySet[Bike]:
    """Return every bike of the workshop, removed ones too."""
    return Bike.objects.filter(workshop_id=actor.workshop_id)


def bikes_seen_by(actor: User) -> QuerySet[Bike]:
    """Return every bike that is not removed."""
    return every_bike_of(actor).exclude(status=Status.REMOVED)


def bikes_gone_from(actor: User) -> QuerySet[Bike]:
    """Return the bikes that are put away or removed."""
    return every_bike_of(actor).exclude(status=Status.HERE)


def parts_seen_by(actor: User) -> QuerySet[BikePart]:
    return BikePart.objects.filter(workshop_id=actor.workshop_id)
