"""Customers are records: made by a name at the intake, found, changed, with their bikes."""

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.web.bikes.services import store_build
from unkett.web.workshop.errors import Conflict
from unkett.web.workshop.models import Customer
from unkett.web.workshop.services import change_customer


def test_a_name_is_one_customer_in_any_case(owner, stranger, bike) -> None:
    again = store_build(owner, build_from({"name": "Second", "parts": {}}), customer="  ebba   holm ")
    assert again.customer == bike.customer
    theirs = store_build(stranger, build_from({"name": "Theirs", "parts": {}}), customer="Ebba Holm")
    assert theirs.customer != bike.customer
    assert Customer.objects.count() == 2
    assert store_build(owner, build_from({"name": "Nobody's", "parts": {}})).customer is None


def test_a_customer_is_found_and_changed(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("customers:customer", args=[bike.customer_id])
    assert "Ebba Holm" in client.get(reverse("customers:list"), {"find": "ebb"}).text
    assert "Nobody is called that" in client.get(reverse("customers:list"), {"find": "sofa"}).text
    assert "Pier bike" in client.get(url).text
    data = {"version": 1, "name": "Ebba Holmsen", "reach": "shouts from the pier", "note": ""}
    assert client.post(url, data).status_code == 302
    assert "Ebba Holmsen" in client.get(reverse("bikes:stand", args=[bike.pk])).text or not bike.wish
    assert Customer.objects.get().reach == "shouts from the pier"
    late = client.post(url, {**data, "note": "Keeps a <dog>"})
    assert late.status_code == 409
    assert Customer.objects.get().note == ""
    (again,) = [form for form in forms_of(late.text) if form.action == url]
    assert client.post(url, again.fields).status_code == 302  # what was typed is not typed twice
    assert Customer.objects.get().note == "Keeps a <dog>"
    assert client.post(url, {**data, "version": 3, "name": " "}).status_code == 422
    assert Customer.objects.get().name == "Ebba Holmsen"


def test_what_is_wrong_is_reported_beside_the_field(owner, bike) -> None:
    store_build(owner, build_from({"name": "Second", "parts": {}}), customer="Jorn")
    wanted = {"actor": owner, "customer_id": bike.customer_id, "version": 1}
    for values, path, says in (
        ({"name": "jorn"}, "name", "called that already"),
        ({"name": "x" * 121}, "name", "at most 120"),
        ({"name": "a", "reach": "y" * 201}, "reach", "at most 200"),
        ({"name": "a", "note": "z" * 2001}, "note", "at most 2000"),
    ):
        with pytest.raises(InputError, match=says) as error:
            change_customer(**wanted, values=values)
        assert [fault.path for fault in error.value.faults] == [path]
    with pytest.raises(Conflict):
        change_customer(**{**wanted, "version": 7}, values={"name": "a"})
    assert Customer.objects.get(pk=bike.customer_id).version == 1
