"""What the Gears page takes: a hill, a cadence, other plans, a typed set-up."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import evolve

from unkett.core.bike.figures import TOP_CADENCE_RPM
from unkett.core.calc.fields import RINGS, SPROCKETS
from unkett.core.errors import Fault, InputError
from unkett.core.vocabulary.types import Number
from unkett.web.pages.common.forms import whole_number
from unkett.web.show.fields import Field, filled_in

SETUPS_BESIDE = 4
ASKED = (
    Field(name="grade", title="Grade", type=Number(unit="%", low=-30, high=40), known=8.0),
    Field(name="power", title="Power", type=Number(unit="W", low=0, high=2000), known=150.0),
    Field(
        name="cadence", title="Top cadence", type=Number(unit="rpm", low=10, high=200), known=TOP_CADENCE_RPM
    ),
    Field(name="rings", title="Rings", type=RINGS, note="46 30"),
    Field(name="sprockets", title="Sprockets", type=SPROCKETS, note="11 13 15 18 21 24 28 32 36"),
)


class GearsForm:
    """The fields with what the address asks; what stands nowhere is what is `known` of it."""

    def __init__(self, asked: Any) -> None:
        self.asked = asked

    @cached_property
    def _read(self) -> dict[str, tuple[Field, Any]]:
        return {field.name: _read_one(field) for field in filled_in(ASKED, self.asked)}

    @property
    def fields(self) -> list[Field]:
        return [field for field, _ in self._read.values()]

    @property
    def hill(self) -> list[Field]:
        return [field for field in self.fields if field.known is not None]

    @property
    def typed(self) -> list[Field]:
        """The fields of the set-up that is typed."""
        return [field for field in self.fields if field.known is None]

    @property
    def opened(self) -> bool:
        return bool(self.beside) or any(field.text for field in self.typed)

    def value(self, name: str) -> Any:
        """Return what is asked for; what stands there anyway where nothing or nothing readable was typed."""
        return self._read[name][1]

    @property
    def beside(self) -> list[int]:
        """The plans that are laid beside."""
        numbers = [whole_number(text) for text in self.asked.getlist("beside")[:SETUPS_BESIDE]]
        return [number for number in numbers if number is not None]


def _read_one(field: Field) -> tuple[Field, Any]:
    try:
        value = field.read()
    except InputError as error:
        return evolve(field, fault=Fault(path=field.name, says=error.faults[0].says)), field.known
    return field, field.known if value is None else value
