"""Writes of the rule book: the workshop's settings and bench names."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction

from unkett.core.errors import bad, nearest
from unkett.core.settings import SETTINGS, Settings
from unkett.web.rulebook.models import ShopName
from unkett.web.rulebook.queries import known_codes
from unkett.web.tasks.services import wake
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.services import log

NAME_MAX = 60


@transaction.atomic
def change_setting(*, actor: User, name: str, value: Any) -> Workshop:
    """Set one setting, or give it back its default with None. Raises InputError for a value out of range."""
    require(actor, "change-settings")
    if name not in SETTINGS:
        raise NotThere
    workshop = Workshop.objects.select_for_update().get(pk=actor.workshop_id)
    own = dict(workshop.settings)
    before = own.pop(name, None)
    if value is not None:
        own[name] = SETTINGS[name].check(value)
    workshop.settings = dict(Settings.of(own).own)
    workshop.save(update_fields=["settings"])
    wake()  # every kept verdict is renewed
    log(actor, "set", workshop, before={name: before}, after={name: own.get(name)})
    return workshop


@transaction.atomic
def add_shop_name(*, actor: User, code: str, name: str) -> ShopName:
    """Give a code another name of the workshop's own. Raises InputError for an unknown code or a doubled name."""
    require(actor, "change-settings")
    codes = known_codes()
    if code not in codes:
        raise bad("code", f"'{code[:40]}' is no code of the vocabulary{nearest(code, codes)}")
    if not 1 <= len(name.strip()) <= NAME_MAX:
        raise bad("name", f"enter a name of 1 to {NAME_MAX} characters")
    try:
        with transaction.atomic():
            made = ShopName.objects.create(workshop_id=actor.workshop_id, code=code, name=name.strip())
    except IntegrityError as error:
        raise bad("name", "this code has that name already") from error
    log(actor, "name", made, after={code: made.name})
    return made


@transaction.atomic
def remove_shop_name(*, actor: User, name_id: int) -> None:
    """Forget a bench name."""
    require(actor, "change-settings")
    found = ShopName.objects.filter(workshop_id=actor.workshop_id, pk=name_id).first()
    if found is None:
        raise NotThere
    log(actor, "forget", found, before={found.code: found.name})
    found.delete()
