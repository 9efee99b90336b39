"""What a workshop may set: thresholds and schools, each with a default and the reason for it.

Rules and calculations never read a setting from anywhere; they are handed a `Settings` value.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import field, frozen

from unkett.core.errors import Fault, InputError, listed, nearest, shown


@frozen(kw_only=True)
class Setting:
    """One thing a workshop may set: a number within a range, one of several schools, or a short word."""

    name: str
    title: str
    default: float | str
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    schools: Mapping[str, str] = field(factory=dict)
    letters: int = 0  # the most characters of one that is a word
    why: str

    def check(self, value: Any) -> float | str:
        """Return the value in its right form, or InputError naming this setting."""
        if self.schools:
            if value in self.schools:
                return str(value)
            says = (
                f"{shown(value)} given; one of {listed(self.schools)} allowed{nearest(value, self.schools)}"
            )
            raise InputError([Fault(path=self.name, says=says)])
        if self.letters:
            word = str(value).strip()
            if len(word) <= self.letters and word.isprintable():
                return word
            says = f"{shown(value)} given; at most {self.letters} characters allowed"
            raise InputError([Fault(path=self.name, says=says)])
        number = isinstance(value, (int, float)) and not isinstance(value, bool)
        if not number or not self.low <= value <= self.high:
            says = f"{shown(value)} given; a number from {self.low:g} to {self.high:g} {self.unit} allowed"
            raise InputError([Fault(path=self.name, says=says.replace("  ", " "))])
        return float(value)


SETTINGS: dict[str, Setting] = {
    setting.name: setting
    for setting in (
        Setting(
            name="index_clean_mm",
            title="Indexing error that stays quiet",
            default=0.5,
            unit="mm",
            low=0.1,
            high=1.0,
            why="The upper pulley floats about half a millimetre to each side and forgives that much.",
        ),
        Setting(
            name="index_noisy_mm",
            title="Indexing error that is noisy at the ends",
            default=0.8,
            unit="mm",
            low=0.1,
            high=1.2,
            why="Between this and the quiet limit the end gears tick but hold; beyond it they skip.",
        ),
        Setting(
            name="chain_length_school",
            title="Length to cut a chain to",
            default="lower",
            schools={
                "lower": "the lower end: big/big, next even number, one pair more",
                "upper": "the upper end: the most the cage still tensions in small/small",
            },
            why=(
                "Both ends lie in one computed window. The lower end keeps "
                "the cage tightest and the chain lightest; nobody cuts shorter."
            ),
        ),
        Setting(
            name="chain_angle_quiet_deg",
            title="Chain angle that runs quiet",
            default=1.6,
            unit="°",
            low=0.5,
            high=3.0,
            why="Up to about 1.6° side plates do not rub the next sprocket.",
        ),
        Setting(
            name="chain_angle_noisy_deg",
            title="Chain angle normal at the ends",
            default=2.7,
            unit="°",
            low=1.0,
            high=3.5,
            why="End gears of wide cassettes run to about 2.7°; above that noise and wear grow.",
        ),
        Setting(
            name="chain_angle_avoid_deg",
            title="Chain angle to avoid",
            default=3.5,
            unit="°",
            low=2.0,
            high=5.0,
            why="Above 3.5° the chain lifts off the teeth under load.",
        ),
        Setting(
            name="chain_worn_single_pct",
            title="Chain worn, one sprocket",
            default=1.0,
            unit="%",
            low=0.3,
            high=1.5,
            why="A lone chain runs straight and forgives most.",
        ),
        Setting(
            name="chain_worn_wide_pct",
            title="Chain worn, 5 to 10 sprockets",
            default=0.75,
            unit="%",
            low=0.3,
            high=1.5,
            why="Wide chains forgive some wear before they take the cassette with them.",
        ),
        Setting(
            name="chain_worn_narrow_pct",
            title="Chain worn, 11 sprockets and more",
            default=0.5,
            unit="%",
            low=0.3,
            high=1.5,
            why="Narrow chains wear their cassette early: half a per cent is the usual end.",
        ),
        Setting(
            name="sag_school",
            title="Sag of the two ends",
            default="fork_less",
            schools={
                "fork_less": "the fork five per cent less than the rear",
                "even": "both ends alike",
            },
            why="Both are usual. Readings of two schools are never compared, so the record says which it is.",
        ),
        Setting(
            name="pad_least_mm",
            title="Brake pad worn at",
            default=1.0,
            unit="mm",
            low=0.3,
            high=5.0,
            why="One millimetre of lining is the usual least; some makers count the plate and say more.",
        ),
        Setting(
            name="rotor_wears_mm",
            title="Rotor wears to under its new thickness",
            default=0.3,
            unit="mm",
            low=0.1,
            high=0.8,
            why="Where no least is stamped: rotors of 1.8 mm are usually done at 1.5. What is stamped wins.",
        ),
        Setting(
            name="rim_wall_least_mm",
            title="Rim wall worn at",
            default=1.0,
            unit="mm",
            low=0.5,
            high=2.0,
            why="A braked wall under a millimetre may split under the tyre's pressure.",
        ),
        Setting(
            name="tread_least_mm",
            title="Tread worn at",
            default=1.0,
            unit="mm",
            low=0.3,
            high=5.0,
            why="Under a millimetre there is little left over the casing.",
        ),
        Setting(
            name="hanger_most_mm",
            title="Hanger off at the rim, at most",
            default=4.0,
            unit="mm",
            low=1.0,
            high=10.0,
            why="Within four millimetres all round every gear can be set; narrow ones want less.",
        ),
        Setting(
            name="true_most_mm",
            title="Wheel out of true, at most",
            default=0.5,
            unit="mm",
            low=0.1,
            high=5.0,
            why="Rim brakes want half a millimetre; behind discs more is lived with.",
        ),
        Setting(
            name="rotor_true_most_mm",
            title="Rotor out of true, at most",
            default=0.2,
            unit="mm",
            low=0.05,
            high=1.0,
            why="Pads stand two or three tenths off: more than two rubs.",
        ),
        Setting(
            name="bearing_most",
            title="Bearing changed at a feel of",
            default=2.0,
            unit="of 3",
            low=1.0,
            high=3.0,
            why="0 smooth, 1 dry, 2 notchy, 3 gritty: a dry one is greased, a notchy one changed.",
        ),
        Setting(
            name="play_most",
            title="Bushes and pivots changed at a knock of",
            default=2.0,
            unit="of 3",
            low=1.0,
            high=3.0,
            why="0 none, 1 felt by hand, 2 heard when ridden, 3 loose: what is heard wears its seat out.",
        ),
        Setting(
            name="battery_least_pct",
            title="Battery charged at",
            default=20.0,
            unit="%",
            low=5.0,
            high=90.0,
            why="A ride home is left in it.",
        ),
        Setting(
            name="fork_service_h",
            title="Fork's lowers serviced after",
            default=50.0,
            unit="h",
            low=10.0,
            high=300.0,
            why="Fifty hours is usual, 25 in the wet, 100 ridden lightly; the manufacturer's figure wins.",
        ),
        Setting(
            name="shock_service_h",
            title="Shock's air can serviced after",
            default=50.0,
            unit="h",
            low=10.0,
            high=300.0,
            why="Fifty hours, 40 to 100 by use; the manufacturer's figure wins.",
        ),
        Setting(
            name="seatpost_service_h",
            title="Dropper post serviced after",
            default=100.0,
            unit="h",
            low=20.0,
            high=500.0,
            why="A hundred to two hundred hours, or six to twelve months.",
        ),
        Setting(
            name="currency",
            title="Currency",
            default="",
            letters=8,
            why="Shown beside every sum: a sign such as € or a code of three letters.",
        ),
        Setting(
            name="labour_per_hour",
            title="Labour for an hour",
            default=45.0,
            unit="an hour",
            low=0.0,
            high=500.0,
            why="What a quote and the search for ways count for a mechanic's hour, without tax.",
        ),
        Setting(
            name="consumables",
            title="Consumables on a quote",
            default=3.0,
            unit="a job",
            low=0.0,
            high=100.0,
            why="Grease, threadlocker, cable ends, cleaner: one sum for each plan that changes anything, without tax.",
        ),
        Setting(
            name="tax_pct",
            title="Tax on a quote",
            default=20.0,
            unit="%",
            low=0.0,
            high=50.0,
            why="Added to parts and labour; local rules say how much.",
        ),
    )
}


@frozen
class Settings:
    """A workshop's settings; what it did not set has its default."""

    own: Mapping[str, float | str] = field(factory=dict)

    @classmethod
    def of(cls, given: Mapping[str, Any]) -> Settings:
        """Checked settings. Raises InputError for an unknown name or a value out of range."""
        faults: list[Fault] = []
        own: dict[str, float | str] = {}
        for name, value in given.items():
            if name not in SETTINGS:
                says = f"unknown; {listed(SETTINGS)} allowed{nearest(name, SETTINGS)}"
                faults.append(Fault(path=name, says=says))
                continue
            try:
                own[name] = SETTINGS[name].check(value)
            except InputError as error:
                faults.extend(error.faults)
        if faults:
            raise InputError(faults)
        return cls(own)

    def number(self, name: str) -> float:
        """Return a setting that is a number."""
        return float(self.own.get(name, SETTINGS[name].default))

    def school(self, name: str) -> str:
        """Return a setting that is a school or a word."""
        return str(self.own.get(name, SETTINGS[name].default))


DEFAULTS = Settings()
