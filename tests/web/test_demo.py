"""The demonstration is loaded again only where nobody worked in it, and touches nobody else's."""

import pytest
from django.core.management import CommandError, call_command

from unkett.web.bikes.models import Bike
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.services import add_customer


@pytest.mark.django_db
def test_the_demonstration_is_replaced_only_as_reported(owner, bike) -> None:
    User.objects.create_user("rona", password="a long pass phrase", workshop=owner.workshop, role="mechanic")
    call_command("load_demo", verbosity=0)
    assert User.objects.get(username="rona").workshop_id == owner.workshop_id  # ours stays ours
    demo = Workshop.objects.get(demo=True)
    boss = User.objects.get(username="rona-demo")
    add_customer(actor=boss, values={"name": "Somebody"})
    with pytest.raises(CommandError, match="did 1 things in the demonstration"):
        call_command("load_demo", verbosity=0)
    assert demo.customers.filter(name="Somebody").exists()
    call_command("load_demo", "--once", verbosity=0)
    call_command("load_demo", "--anyway", verbosity=0)
    assert not demo.customers.filter(name="Somebody").exists()
    assert Bike.objects.filter(pk=bike.pk, workshop=owner.workshop).exists()
