"""Taking in a whole bike in the browser, with every field filled and every choice tapped counted."""

import re

import pytest
from attrs import define
from PIL import Image
from playwright.sync_api import Page, expect

from unkett.web.bikes.models import Bike

pytestmark = pytest.mark.own_database

MOST = 45
# What the record must hold of what no catalogue knows: read off the bike by hand before the test was written.
FACTS = {
    "chain": {"speeds": 12, "links": 112},
    "front_brake_lever": {"actuation": "hydraulic", "fluid": "mineral", "clamp_mm": 23.8, "fits_bar": ["drop"]},
    "front_caliper": {"type": "disc", "actuation": "hydraulic", "fluid": "mineral", "mount": "flat"},
    "rear_caliper": {"type": "disc", "actuation": "hydraulic", "fluid": "mineral", "mount": "flat"},
    "front_rotor": {"diameter_mm": 160, "mount": "six_bolt", "thickness_mm": 1.8},
    "rear_rotor": {"diameter_mm": 160, "mount": "six_bolt", "thickness_mm": 1.8},
    "front_tyre": {"width_mm": 45, "bsd_mm": 622, "type": "clincher"},
    "rear_tyre": {"width_mm": 45, "bsd_mm": 622, "type": "clincher"},
    "front_rim": {"bsd_mm": 622, "inner_width_mm": 25, "bead": "hooked"},
    "rear_rim": {"bsd_mm": 622, "inner_width_mm": 25, "bead": "hooked"},
    "front_hub": {"axle_kind": "thru", "axle_dia_mm": 12, "spacing_mm": 100, "rotor_mount": "six_bolt"},
    "rear_hub": {
        "axle_kind": "thru", "axle_dia_mm": 12, "spacing_mm": 142, "rotor_mount": "six_bolt", "freehub": "fine23",
    },
    "headset": {"upper": "EC34/28.6", "lower": "EC34/30", "steerer_upper_mm": 28.6, "crown_race_mm": 30},
    "spacers": {"below_mm": 15},
    "stem": {"mount": "threadless", "steerer_mm": 28.6, "bar_clamp_mm": 31.8, "length_mm": 80, "angle_deg": -6},
    "handlebar": {"clamp_mm": 31.8, "width_mm": 440, "shape": "drop", "grip_mm": 23.8},
    "seatpost": {"diameter_mm": 27.2, "mark_inside": True},
    "frame": {
        "bb_shell": "bsa", "bb_shell_width_mm": 68, "rear_axle_kind": "thru", "rear_axle_dia_mm": 12,
        "rear_spacing_mm": 142, "headset_upper": "EC34/28.6", "headset_lower": "EC34/30", "hanger": "m10",
        "seat_tube_bore_mm": 27.2, "chainstay_mm": 428, "design_bsd_mm": [622], "tyre_max_mm": {"622": 45},
        "rear_brake_mount": "flat",
    },
    "fork": {
        "axle_kind": "thru", "axle_dia_mm": 12, "spacing_mm": 100, "steerer_upper_mm": 28.6, "crown_race_mm": 30,
        "steerer_length_mm": 230, "brake_mount": "flat", "design_bsd_mm": [622],
    },
}  # fmt: skip
PICKED = {
    "Cassette": "Holm 12, 10–45 fine",
    "Rear derailleur": "Gannet 12, gravel, clutch",
    "Rear shifter": "Drop lever 12 wide",
    "Chain": "Tideline 12, 126 links",
    "Chainrings": "Single 40, direct, narrow-wide",
    "Crank": "Causeway single, 170",
    "Bottom bracket": "Outboard 24, threaded",
}


@define
class Hand:
    """What a hand does on the page, counted."""

    page: Page
    entries: int = 0

    def fill(self, part: str, title: str, text: str) -> None:
        self.entries += 1
        self._part(part).get_by_label(title, exact=False).first.fill(text)

    def choose(self, part: str, title: str, answer: str) -> None:
        self.entries += 1
        self._part(part).get_by_label(title, exact=False).first.select_option(answer)

    def tap(self, part: str, title: str) -> None:
        self.entries += 1
        self._part(part).get_by_label(title, exact=False).first.check()

    def it_is(self, part: str, name: str) -> None:
        """Type the beginning and take the one that the list offers."""
        self.entries += 1
        field = self._part(part).get_by_label("it is this one")
        field.press_sequentially(name[:9])
        expect(self._part(part).locator(f'option[value="{name}"]').first).to_be_attached()
        field.fill(name)

    def go_on(self) -> None:
        address = self.page.url
        self.page.get_by_role("button", name=re.compile("^Save and")).click()
        self.page.wait_for_url(lambda url: url != address)
        expect(self.page.locator(".fault:visible")).to_have_count(0)

    def _part(self, title: str):
        if not title:
            return self.page.get_by_role("main")
        name = self.page.get_by_label(f"{title}: name, or", exact=False)
        return self.page.locator("fieldset.intake-part").filter(has=name)


def first_look(hand: Hand) -> None:
    hand.page.goto("/bikes/new/")
    for title in ("Gravel", "Derailleur, one ring", "Discs, hydraulic"):
        hand.entries += 1
        hand.page.get_by_role("radio", name=title, exact=True).check()
    hand.fill("", "Rider's complaint", "It skips under load.")
    hand.fill("", "Customer", "Ebba Holm")
    hand.page.get_by_role("button", name="Go to the inspection").click()
    hand.page.get_by_role("heading", name="Inspection").wait_for()
    hand.tap("", "Chain past its limit by the gauge")
    hand.go_on()


def drivetrain(hand: Hand) -> None:
    for title, name in PICKED.items():
        hand.it_is(title, name)
    hand.fill("Chain", "Links", "112")
    hand.go_on()


def brakes(hand: Hand) -> None:
    hand.tap("", "The rear as the front")
    hand.tap("Front brake lever", "Goes with the rear shifter")
    hand.choose("Front brake lever", "Fluid", "mineral")
    hand.choose("Front caliper", "Fluid", "mineral")
    hand.choose("Front caliper", "Mount", "flat")
    hand.fill("Front rotor", "Markings", "160 six-bolt 1.8")
    hand.tap("Rear brake lever", "One piece with")
    hand.go_on()


def wheels(hand: Hand) -> None:
    hand.tap("", "The rear as the front")
    hand.fill("Front tyre", "Markings", "45-622")
    hand.fill("Front rim", "Markings", "622x25TC")
    hand.fill("Front hub", "Markings", "12x100 six-bolt")
    hand.fill("Rear hub", "Markings", "12x142")
    hand.choose("Rear hub", "Freehub body", "fine23")
    hand.go_on()


def the_rest(hand: Hand) -> None:
    hand.fill("Headset", "Markings", "EC34/28.6 EC34/30")
    hand.fill("Spacers round the stem", "Below", "15")
    hand.fill("Stem", "Markings", "28.6 31.8 80 -6")
    hand.fill("Handlebar", "Markings", "31.8 440 drop")
    hand.tap("Handlebar", "Goes with")
    hand.go_on()
    hand.fill("Seatpost", "Diameter", "27.2")
    hand.choose("Seatpost", "Mark", "yes")
    hand.go_on()
    hand.tap("Frame", "Goes with")
    for title, text in {
        "Bracket shell width": "68", "Seat tube bore": "27.2", "Chainstay": "428", "Rim sizes": "622",
        "Widest rear tyre": "622: 45",
    }.items():  # fmt: skip
        hand.fill("Frame", title, text)
    hand.choose("Frame", "Hanger", "m10")
    hand.choose("Frame", "Rear brake mount", "flat")
    hand.tap("Fork", "Goes with")
    hand.fill("Fork", "Steerer length", "230")
    hand.choose("Fork", "Brake mount", "flat")
    hand.go_on()


def test_a_gravel_bike_is_taken_in_with_few_entries(island: Page) -> None:
    hand = Hand(page=island)
    first_look(hand)
    drivetrain(hand)
    brakes(hand)
    wheels(hand)
    the_rest(hand)
    bike = Bike.objects.get(name="Gravel bike, Ebba Holm")
    fitted = {slot: part for part in bike.fitted.all() for slot in part.slots()}
    for slot, facts in FACTS.items():
        held = fitted[slot].attrs
        assert {name: held.get(name) for name in facts} == facts, slot
    for title, name in PICKED.items():
        assert any(part.name == name and part.catalogue_part_id for part in fitted.values()), title
    assert fitted["rear_brake_lever"] is fitted["rear_shifter"]
    assert fitted["rear_shifter"].attrs["fluid"] == "mineral"
    assert bike.looked["chain_worn"]["how"] == "should"
    assert hand.entries <= MOST


def test_a_picture_is_made_smaller_before_it_is_sent(signed_in: Page, bike, tmp_path) -> None:
    """A picture of 2400 × 1800 in every colour goes as a JPEG of 1600 × 1200; a small file goes as it is."""
    large, small = tmp_path / "large.png", tmp_path / "small.png"
    Image.effect_noise((2400, 1800), 90).convert("RGB").save(large)
    Image.new("RGB", (40, 30)).save(small)
    signed_in.goto(f"/bikes/{bike.pk}/look-over/")
    field = signed_in.locator("input[type=file][accept^='image/']").first
    field.set_input_files(large)
    expect(field).not_to_have_attribute("aria-busy", "true")
    signed_in.wait_for_function("document.querySelector(\"input[type=file]\").files[0].type === 'image/jpeg'")
    size = field.evaluate(
        "async (one) => { const p = await createImageBitmap(one.files[0]); return [p.width, p.height] }"
    )
    assert size == [1600, 1200]
    assert field.evaluate("(one) => one.files[0].size") < large.stat().st_size
    field.set_input_files(small)
    assert field.evaluate("(one) => [one.files[0].name, one.files[0].type]") == ["small.png", "image/png"]
