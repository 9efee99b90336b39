"""The inspection: what is ticked goes on the part, forbids riding, and comes off again."""

import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from unkett.core.intake import BikeProfile
from unkett.core.intake.inspection import AREAS, HOWS, TICKS, places
from unkett.core.vocabulary import SLOTS, enums
from unkett.web.bikes.models import Bike, Feel, Picture


def post(client, bike, **data):
    bike.refresh_from_db()
    url = reverse("bikes:inspection", args=[bike.pk])
    return client.post(url, {"version": bike.version, "once": "", **data})


def picture(size=(2000, 1000)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "red").save(out, "PNG")
    return out.getvalue()


def test_the_ticks_are_of_known_areas_parts_and_damage() -> None:
    for tick in TICKS.values():
        assert tick.area in AREAS
        assert tick.how in HOWS
        assert tick.slots
        assert set(tick.slots) <= {*SLOTS, "bike"}
        assert tick.damage in {"", *enums.DAMAGE.codes}
        assert tick.feel in {"", *Feel.values}
    track = BikeProfile(use="track", gears="single", brakes="none")
    assert places(TICKS["brake_leak"], track) == ()
    assert places(TICKS["limits_wrong"], track) == ()
    assert places(TICKS["frame_crack"], track) == ("frame", "fork")


def test_a_crack_forbids_riding_until_it_is_unticked(client, owner, bike) -> None:
    client.force_login(owner)
    ticked = {
        "frame_crack": "1",
        "frame_crack.slot": "fork",
        "frame_crack.how": "must",
        "frame_crack.note": "left",
    }
    assert post(client, bike, **ticked).status_code == 302
    bike.refresh_from_db()
    assert bike.verdict == "no_go"
    assert bike.fitted.get(slot="fork").attrs["damage"] == ["crack"]
    assert bike.looked["frame_crack"]["note"] == "left"
    stand = client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert "Crack, or paint lifting over one" in stand
    assert "left" in stand
    undo = {"version": bike.version, "once": ""}
    client.post(reverse("bikes:bike-undo", args=[bike.pk]), undo)
    bike.refresh_from_db()
    assert (bike.looked, bike.fitted.filter(slot="fork").exists()) == (
        {},
        False,
    )  # nobody had written it down
    post(client, bike, **ticked)
    post(
        client, bike, headset_notchy="1", **{"headset_notchy.slot": "headset", "headset_notchy.how": "should"}
    )
    bike.refresh_from_db()
    assert list(bike.looked) == ["headset_notchy"]
    assert "damage" not in bike.fitted.get(slot="fork").attrs
    assert bike.fitted.get(slot="headset").condition["feel"] == "notchy"


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"frame_crack.slot": ""}, "choose the part"),
        ({"frame_crack.slot": "chain"}, "choose the part"),
        ({"frame_crack.how": "never"}, "must, should or may"),
        ({"frame_crack.note": "x" * 401}, "at most 400"),
        ({"frame_crack.picture": SimpleUploadedFile("x.png", b"no picture")}, "no picture that can be read"),
    ],
    ids=str,
)
def test_a_wrong_tick_stores_nothing_and_stands_beside_it(client, owner, bike, more, says) -> None:
    client.force_login(owner)
    good = {"frame_crack": "1", "frame_crack.slot": "fork", "frame_crack.how": "must", "teeth_hooked": "1"}
    good |= {"teeth_hooked.slot": "cassette", "teeth_hooked.how": "may", "teeth_hooked.note": "the smallest"}
    answer = post(client, bike, **{**good, **more})
    assert answer.status_code == 422
    assert says in answer.text
    assert 'value="the smallest"' in answer.text
    bike.refresh_from_db()
    assert bike.looked == {}


def test_a_picture_is_made_anew_and_replaced(client, owner, stranger, bike) -> None:
    client.force_login(owner)
    ticked = {"frame_dent": "1", "frame_dent.slot": "frame", "frame_dent.how": "should"}
    for size in ((2000, 1000), (40, 30)):
        sent = SimpleUploadedFile("dent.png", picture(size), content_type="image/png")
        assert post(client, bike, **ticked, **{"frame_dent.picture": sent}).status_code == 302
        url = reverse("bikes:inspection-picture", args=[bike.pk, "frame_dent"])
        answer = client.get(url)
        assert answer["Content-Type"] == "image/jpeg"
        with Image.open(io.BytesIO(answer.content)) as kept:
            assert (kept.format, kept.width / kept.height) == (
                "JPEG",
                pytest.approx(size[0] / size[1], rel=0.01),
            )
            assert max(kept.size) <= 1600
    assert Picture.objects.count() == 1
    assert Bike.objects.get(pk=bike.pk).looked["frame_dent"]["how"] == "should"
    client.force_login(stranger)
    assert client.get(url).status_code == 404
