"""A stand-in for a supplier: a stock-and-price feed in JSON on a loopback port, and orders that arrive bit by bit.

`GET /offers` answers `unkett.offers/1`, `POST /orders` takes `unkett.order/1`, `GET /orders/ID` tells how much of one
was sent and when the rest is due. Prices and stock move a little with every answer; lead times and some prices are
missing, as in life.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import random
import threading
import time
from collections.abc import Iterable, Mapping
from datetime import date, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from unkett.core.standards import table

HOST = "127.0.0.1"
PORT = 8790
NAME = "Skerrow Parts Store"
CATALOGUE = Path(__file__).parents[1] / "web" / "demo" / "catalogue.json"
STALL_S = 60.0
BODY_MOST = 200_000
MOODS = ("well", "stall", "broken", "megabyte", "lies", "cut off", "slow")


class Supplier:
    """What it sells, the orders it took, and its mood: how it answers."""

    def __init__(self, parts: Iterable[Mapping[str, Any]], seed: int = 1) -> None:
        self._pick = random.Random(seed)  # noqa: S311 - repeatable, no secret
        self.mood = "well"
        self.stalled = threading.Event()  # set: a stalled answer ends at once
        self.orders: dict[str, dict[str, Any]] = {}
        self._lock = threading.Lock()
        self.offers = [self._offer(n, part) for n, part in enumerate(parts, 1)]

    def _offer(self, n: int, part: Mapping[str, Any]) -> dict[str, Any]:
        gap = self._pick.randrange(12)
        price = round(float(part["price"]) * self._pick.uniform(0.9, 1.05), 2)
        return {
            "code": f"SK-{n:04d}",
            "kind": part["kind"],
            "maker": part.get("maker", ""),
            "name": part["name"],
            "price": None if gap == 0 else f"{price:.2f}",
            "stock": None if gap == 1 else self._pick.choice((0, 0, 1, 2, 5, 20)),
            "lead_days": None if gap == 2 else self._pick.choice((1, 2, 2, 3, 7, 14)),
        }

    def feed(self) -> dict[str, Any]:
        """Return the offers as they are now."""
        with self._lock:
            for offer in self._pick.sample(self.offers, min(3, len(self.offers))):
                if offer["stock"] is not None:
                    offer["stock"] = max(0, offer["stock"] + self._pick.choice((-1, 1)))
            made = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
            return {"format": "unkett.offers/1", "supplier": NAME, "made": made, "offers": list(self.offers)}

    def order(self, wanted: Mapping[str, Any]) -> dict[str, Any] | None:
        """Take an order, the same one once only; None for one that it cannot read."""
        lines = wanted.get("lines")
        known = {offer["code"] for offer in self.offers}
        if wanted.get("format") != "unkett.order/1" or not isinstance(lines, list) or not lines:
            return None
        if any(not isinstance(line, dict) or line.get("code") not in known for line in lines):
            return None
        with self._lock:
            leads = {offer["code"]: offer["lead_days"] or 0 for offer in self.offers}
            order_lines = [
                {
                    "code": line["code"],
                    "count": line["count"],
                    "sent": 0,
                    "due": _in_days(leads[line["code"]]),
                }
                for line in lines
            ]
            number = str(wanted.get("reference"))
            return self.orders.setdefault(
                number, {"format": "unkett.order/1", "id": f"O{len(self.orders) + 1}", "lines": order_lines}
            )

    def send(self, order_id: str, lines: int = 1) -> None:
        """Send so many lines of an order."""
        order = self.called(order_id)
        for line in [one for one in order["lines"] if one["sent"] < one["count"]][:lines] if order else []:
            line["sent"] = line["count"]

    def delay(self, order_id: str, days: int) -> None:
        """Delay every line of an order that is not sent yet by so many days."""
        order = self.called(order_id)
        for line in [one for one in order["lines"] if one["sent"] < one["count"]] if order else []:
            line["due"] = (date.fromisoformat(line["due"]) + timedelta(days=days)).isoformat()

    def called(self, order_id: str) -> dict[str, Any] | None:
        return next((one for one in self.orders.values() if one["id"] == order_id), None)


def small_parts() -> list[dict[str, Any]]:
    """Small parts that joints need, of no kind of their own."""
    wanted = [row for row in table("needs").rows if row["sort"] == "part" and row.get("price")]
    return [{"kind": "", "name": row.get("says", row["what"]), "price": row["price"]} for row in wanted]


def _in_days(days: int) -> str:
    return (date.today() + timedelta(days=days)).isoformat()  # noqa: DTZ011 - a day of this machine


class _Answers(BaseHTTPRequestHandler):
    server: SupplierServer

    def log_message(self, *_: Any) -> None:
        """Log nothing."""

    def do_GET(self) -> None:
        """Offers, or one order."""
        supplier = self.server.supplier
        if self.path == "/offers":
            self._tell(supplier.feed())
        elif self.path.startswith("/orders/") and (order := supplier.called(self.path[8:])):
            self._tell(order)
        else:
            self.send_error(404)

    def do_POST(self) -> None:
        """An order."""
        try:
            body = self.rfile.read(min(int(self.headers.get("Content-Length", 0)), BODY_MOST))
            wanted = json.loads(body)
        except ValueError:
            self.send_error(400)
            return
        taken = (
            self.server.supplier.order(wanted)
            if self.path == "/orders" and isinstance(wanted, dict)
            else None
        )
        if taken is None:
            self.send_error(422)
        else:
            self._tell(taken, 201)

    def _tell(self, value: Any, status: int = 200) -> None:
        supplier = self.server.supplier
        if supplier.mood == "broken":
            self.send_error(500)
            return
        if supplier.mood == "stall":
            supplier.stalled.wait(STALL_S)
        body = json.dumps(_lying(value) if supplier.mood == "lies" else value).encode()
        if supplier.mood == "megabyte":
            body = b'{"format": "unkett.offers/1", "supplier": "' + b"x" * 3_000_000 + b'", "offers": []}'
        if supplier.mood == "cut off":
            body = body[: len(body) // 2]
        with contextlib.suppress(OSError):  # the asker has gone
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            if supplier.mood == "slow":
                for n in range(0, len(body), 100):
                    self.wfile.write(body[n : n + 100])
                    if supplier.stalled.wait(0.2):
                        return
            else:
                self.wfile.write(body)


def _lying(value: Any) -> Any:
    """Return the same answer with figures that cannot be."""
    wrong = (
        {"price": "-5.00"},
        {"price": "NaN"},
        {"stock": -3},
        {"lead_days": "soon"},
        {"code": ""},
        {"name": 7},
    )
    offers = [{**offer, **wrong[n % len(wrong)]} for n, offer in enumerate(value.get("offers", []))]
    return {**value, "offers": [*offers, "an offer", None]}


class SupplierServer(ThreadingHTTPServer):
    """The stand-in on its port; 0 takes a free one."""

    daemon_threads = True

    def __init__(self, supplier: Supplier, port: int = 0) -> None:
        super().__init__((HOST, port), _Answers)
        self.supplier = supplier

    @property
    def url(self) -> str:
        return f"http://{HOST}:{self.server_address[1]}"


def main(args: list[str]) -> int:
    """Serve until Ctrl-C."""
    parser = argparse.ArgumentParser(
        prog="./unkett supplier", description="A stand-in for a supplier on loopback."
    )
    parser.add_argument("--port", type=int, default=PORT, help=f"where it answers ({PORT})")
    parser.add_argument("--mood", choices=MOODS, default="well", help="how it answers")
    parser.add_argument("--parts", type=Path, default=CATALOGUE, help="what it sells: a JSON list of parts")
    given = parser.parse_args(args)
    try:
        parts = json.loads(given.parts.read_text(encoding="utf-8"))
        supplier = Supplier([*parts, *small_parts()] if given.parts == CATALOGUE else parts)
        server = SupplierServer(supplier, given.port)
    except (OSError, ValueError, KeyError) as error:
        print(f"unkett: the supplier cannot start: {error}")
        return 1
    supplier.mood = given.mood
    print(f"unkett: {NAME} answers at {server.url}", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        server.serve_forever()
    return 0
