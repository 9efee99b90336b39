"""One mechanic of the load: signs in, takes a bike of their own, then one action every five seconds."""

from __future__ import annotations

import itertools
import os
import re

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
        """Sign in and start a plan on a bike that nobody else works on."""
        self.token = TOKEN.search(self.client.get("/sign-in/", name="sign in").text)[1]
        password = os.environ["UNKETT_LOAD_PASSWORD"]
        self._post("/sign-in/", "sign in", username="eskil", password=password)
        n = next(NUMBER)
        found = BIKE.findall(self.client.get(f"/?find=Bike+{1000 + n}", name="find").text)
        self.bike = found[-1]
        made = self._post(f"/bikes/{self.bike}/plans/", "start a plan", name=f"Load {n}")
        self.plan = made.url.rstrip("/").rpartition("/")[2]

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
