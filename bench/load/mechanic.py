"""One mechanic of the load: takes a bike of their own, then one action every five seconds."""

from __future__ import annotations

import itertools
import os
import re

import requests
from locust import HttpUser, constant_pacing, task

NUMBER = itertools.count()
TOKEN = re.compile(r'name="csrfmiddlewaretoken" value="([^"]+)"')
BIKE = re.compile(r'href="/bikes/(\d+)/"')
PART = re.compile(r'name="part" value="(\d+)"')
VERSION = re.compile(r'name="version" value="(\d+)"')


class Mechanic(HttpUser):
    """Somebody at a work stand."""

    wait_time = constant_pacing(5)

    def on_start(self) -> None:
        """Start a plan on a bike that nobody else works on, signed in already."""
        n = next(NUMBER)
        begins = requests.Session()  # not counted: it comes before the work
        begins.cookies.set("sessionid", os.environ["UNKETT_LOAD_SESSIONS"].split()[n % 50])
        found = begins.get(f"{self.host}/?find=Bike+{1000 + n}")
        self.bike = BIKE.findall(found.text)[-1]
        stand = begins.get(f"{self.host}/bikes/{self.bike}/")
        made = self._sent(begins, stand, f"/bikes/{self.bike}/plans/", {"name": f"Load {n}"})
        self.plan = made.url.rstrip("/").rpartition("/")[2]
        self.token = TOKEN.search(made.text)[1]
        self.client.cookies.update(begins.cookies)

    def _sent(self, session, page, path: str, data: dict[str, str]):
        token = TOKEN.search(page.text)[1]
        return session.post(
            self.host + path, {**data, "csrfmiddlewaretoken": token}, headers={"Referer": self.host + path}
        )

    def _post(self, path: str, name: str, **data: str):
        answer = self.client.post(
            path,
            {**data, "csrfmiddlewaretoken": self.token},
            name=name,
            headers={"Referer": self.host + path},
        )
        found = TOKEN.search(answer.text)
        self.token = found[1] if found else self.token
        return answer

    @task(4)
    def look(self) -> None:
        """The Stand."""
        self.client.get(f"/bikes/{self.bike}/", name="stand")

    @task(2)
    def search(self) -> None:
        """What goes into a slot."""
        self.client.get(f"/plans/{self.plan}/parts/cassette/", name="drawer")

    @task(2)
    def swap(self) -> None:
        """Another cassette into the plan."""
        drawer = self.client.get(f"/plans/{self.plan}/parts/cassette/", name="drawer").text
        parts, version = PART.findall(drawer), VERSION.search(drawer)
        if parts and version:
            self._post(
                f"/plans/{self.plan}/parts/cassette/swap/",
                "swap",
                part=parts[next(NUMBER) % len(parts)],
                version=version[1],
            )

    @task(2)
    def measure(self) -> None:
        """A reading of the chain."""
        page = self.client.get(f"/bikes/{self.bike}/parts/chain/", name="part").text
        version = VERSION.search(page)
        self._post(
            f"/bikes/{self.bike}/measure/", "reading", slot="chain", attr="links",
            value=str(100 + 2 * (next(NUMBER) % 8)), version=version[1] if version else "0", really="1",
        )  # fmt: skip
