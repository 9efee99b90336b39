"""What an actor may see of the bikes and their parts: their own workshop's."""

from django.db.models import QuerySet

from unkett.web.bikes.models import Bike, BikePart
from unkett.web.workshop.models import User


def bikes_seen_by(actor: User) -> QuerySet[Bike]:
    return Bike.objects.filter(workshop_id=actor.workshop_id)


def parts_seen_by(actor: User) -> QuerySet[BikePart]:
    return BikePart.objects.filter(workshop_id=actor.workshop_id)
