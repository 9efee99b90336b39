"""The Work out pages: every calculation, filled from a bike, faults beside their fields."""

import pytest
from django.urls import reverse

from tests.core.calc_examples import GOOD
from unkett.core.calc.registry import CALCULATIONS
from unkett.core.formats.typed_text import typed_text
from unkett.core.vocabulary import describe
from unkett.web.show.words import figure


def texts(name: str) -> dict[str, str]:
    """The good inputs of a calculation as a hand types them."""
    types = {one.name: one.type for one in CALCULATIONS[name].inputs}
    return {key: typed_text(value, types[key]) for key, value in GOOD[name].items()}


@pytest.mark.parametrize("name", sorted(CALCULATIONS))
def test_every_calculation_answers_in_the_browser(client, mechanic, name) -> None:
    client.force_login(mechanic)
    url = reverse("calculators:calculation", args=[name])
    assert client.get(url).status_code == 200
    answer = client.get(url, texts(name))
    assert answer.status_code == 200
    assert 'class="where-panel"' in answer.text, name
    rows = client.get(url, {**texts(name), "as": "csv"}).text.splitlines()
    assert rows[0] == "name,value"
    assert len(rows) > 1


def test_a_bike_fills_in_what_it_knows(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    page = client.get(reverse("calculators:calculation", args=["chain_length"]), {"bike": bike.pk}).text
    assert 'value="432"' in page
    assert "from the bike" in page
    assert "108" in page  # 864 + 36 × 12.7 + 0.6 = 1321.8 mm = 104.1 links, 106 + 2


def test_faults_stand_beside_their_fields(client, mechanic) -> None:
    client.force_login(mechanic)
    answer = client.get(
        reverse("calculators:calculation", args=["sag"]), {"full_mm": "120", "sag_mm": "5 Nm"}
    )
    assert answer.status_code == 422
    assert "allowed" in answer.text
    answer = client.get(reverse("calculators:calculation", args=["sag"]), {"full_mm": "120", "sag_mm": "130"})
    assert answer.status_code == 422
    assert "130 mm is more than" in answer.text
    answer = client.get(reverse("calculators:calculation", args=["rotor_shims"]), {"planes_mm": "just words"})
    assert answer.status_code == 422
    assert client.get("/work-out/magic/").status_code == 404


def test_typed_units_are_taken(client, mechanic) -> None:
    client.force_login(mechanic)
    page = client.get(
        reverse("calculators:calculation", args=["torque_setting"]),
        {"wanted_nm": "48 in-lb", "wrench_mm": '12"', "extension_mm": "0"},
    ).text
    assert "5.423" in page


def test_what_is_filled_in_is_declared() -> None:
    for calculation in CALCULATIONS.values():
        for wanted in calculation.inputs:
            for slot, attr in (*wanted.known, *wanted.then):
                assert describe(slot, attr), (calculation.name, wanted.name)


def test_a_sprung_bikes_chain_is_not_worked_out_without_its_growth(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    url = reverse("calculators:calculation", args=["chain_length"])
    assert "Recommended length" in client.get(url, {"bike": bike.pk}).text  # a rigid one is
    frame = bike.fitted.get(slot="frame")
    frame.attrs["wheel_travel_mm"] = 140
    frame.save()
    page = client.get(url, {"bike": bike.pk}).text
    assert "A sprung rear: measure how far the stay grows" in page
    assert "Recommended length" not in page
    assert 'class="fault"' not in page  # it is asked for, not reported off
    typed = {
        "bike": bike.pk,
        "chainstay_mm": "432",
        "chainrings": "40",
        "sprockets": "11 32",
        "growth_mm": "20",
    }
    page = client.get(url, typed).text
    assert "Recommended length" in page


def test_half_a_pressure_limit_is_none(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    url = reverse("calculators:calculation", args=["tyre_pressure_limit"])
    half = {"bead": "hooked", "tyre_bar": "5"}
    assert "Never above" in client.get(url, half).text  # of a tyre in the hand
    page = client.get(url, {**half, "bike": bike.pk}).text
    assert "Never above" not in page
    assert "Read it off the rim" in page
    assert "Never above" in client.get(url, {**half, "bike": bike.pk, "rim_bar": "4,5"}).text
    keep = reverse("bikes:typed-keep", args=[bike.pk, "tyre_pressure_limit"])
    assert client.post(keep, {"version": 1, "typed-bead": "hooked", "typed-tyre_bar": "5"}).status_code == 302
    assert (
        bike.fitted.get(slot="rear_tyre").attrs["pressure_max_bar"] == 5
    )  # what is known is kept all the same


def test_another_workshops_bike_fills_nothing(client, stranger, bike) -> None:
    client.force_login(stranger)
    page = client.get(reverse("calculators:calculation", args=["chain_length"]), {"bike": bike.pk}).text
    assert "from the bike" not in page


def test_figures_are_shown_in_the_readers_units(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    url = reverse("workshop:own-units")
    assert client.get(url).status_code == 200
    assert client.post(url, {"Nm": "lbf-in", "mm": "in", "bar": "bar"}).status_code == 302
    mechanic.refresh_from_db()
    assert mechanic.units == {"Nm": "lbf-in", "mm": "in"}
    page = client.get(
        reverse("calculators:calculation", args=["torque_setting"]),
        {"wanted_nm": "40", "wrench_mm": "300", "extension_mm": "50"},
    ).text
    assert "303.454 <small>lbf-in</small>" in page  # 40 × 300 / 350 = 34.2857 Nm; ÷ 0.112985
    assert 'value="40"' in page  # a field stays in the unit it names
    stand = client.get(reverse("bikes:stand", args=[bike.pk]), {"all": "1"}).text
    assert "17.008 <small>in</small>" in stand  # 432 / 25.4
    assert client.post(url, {"Nm": "furlong"}).status_code == 422
    mechanic.refresh_from_db()
    assert mechanic.units == {"Nm": "lbf-in", "mm": "in"}


@pytest.mark.parametrize(
    ("value", "shown"), [(-0.0004, "0"), (-0.0, "0"), (10.0, "10"), (-2.5, "-2.5"), (1.005, "1"), (None, "–")]
)
def test_figures_carry_no_noise(value, shown) -> None:
    assert figure(value) == shown
