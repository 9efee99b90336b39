"""How a supplier is asked: one request, small, within seconds, and nothing of its answer believed unread."""

from __future__ import annotations

import contextlib
import datetime
import json
import time
import urllib.error
import urllib.request
from collections.abc import Mapping
from decimal import Decimal, InvalidOperation
from typing import Any
from urllib.parse import urlsplit

from attrs import frozen

from unkett.core.errors import Fault, InputError, bad

SECONDS = 15.0  # for the whole of an answer
QUIET_SECONDS = 5.0  # without a byte
BYTES_MOST = 2_000_000
PIECE = 65_536
OFFERS_MOST = 20_000
OFFERS, ORDER = "unkett.offers/1", "unkett.order/1"
TEXTS = {"code": (1, 60), "kind": (0, 40), "maker": (0, 80), "name": (1, 200)}
STOCK_MOST, DAYS_MOST = 1_000_000, 1000
PRICE_UNDER = Decimal(1_000_000)


class SupplierError(Exception):
    """The supplier did not answer as it should; the message says how."""


@frozen(kw_only=True)
class Offered:
    """One offer of a feed, checked."""

    code: str
    kind: str
    maker: str
    name: str
    price: Decimal | None
    stock: int | None
    lead_days: int | None


@frozen(kw_only=True)
class Feed:
    """The offers that can be believed, and how many were left out."""

    offers: tuple[Offered, ...]
    left_out: tuple[str, ...]


class _Stays(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_: Any) -> None:
        """Nowhere else: the address that the workshop typed is the one that is asked."""


_OPENER = urllib.request.build_opener(_Stays, urllib.request.ProxyHandler({}))


def check_url(url: str) -> str:
    """Return an address that may be asked. Raises InputError naming `url`."""
    parts = urlsplit(url.strip())
    try:
        fine = parts.scheme in ("http", "https") and parts.hostname and (parts.port or 1) > 0
    except ValueError:
        fine = False
    if not fine or parts.username or parts.query or parts.fragment or len(url) > 300:
        raise bad("url", "an address such as http://127.0.0.1:8790 is wanted, without ? or #")
    return url.strip().rstrip("/")


def ask(url: str, send: Any = None) -> Any:
    """Return the JSON that an address answers. Raises SupplierError for anything else, too much, or too late."""
    body = None if send is None else json.dumps(send).encode()
    request = urllib.request.Request(  # noqa: S310 - its scheme is checked as it is typed
        url, body, {"Content-Type": "application/json", "Accept": "application/json"}
    )
    until = time.monotonic() + SECONDS
    content = bytearray()
    try:
        with _OPENER.open(request, timeout=QUIET_SECONDS) as answer:
            wanted = answer.headers.get("Content-Length", "")
            while piece := answer.read1(PIECE):
                content += piece
                if len(content) > BYTES_MOST:
                    raise SupplierError(f"It answered more than {BYTES_MOST // 1_000_000} MB.")
                if time.monotonic() > until:
                    raise SupplierError(f"It did not end its answer within {SECONDS:g} s.")
            if wanted.isdecimal() and int(wanted) != len(content):
                raise SupplierError("Its answer was cut off.")
    except urllib.error.HTTPError as error:
        raise SupplierError(f"It answered {error.code}.") from error
    except TimeoutError as error:
        raise SupplierError(f"It said nothing for {QUIET_SECONDS:g} s.") from error
    except (OSError, ValueError) as error:
        reason = getattr(error, "reason", error)
        if isinstance(reason, TimeoutError):
            raise SupplierError(f"It said nothing for {QUIET_SECONDS:g} s.") from error
        raise SupplierError(f"It cannot be reached: {reason}.") from error
    try:
        return json.loads(bytes(content), parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise SupplierError("Its answer is no JSON.") from error


def _no_constant(text: str) -> Any:
    raise ValueError(text)


def read_feed(answer: Any) -> Feed:
    """Return the offers of a feed, those that cannot be read left out. Raises SupplierError for what is no feed."""
    if (
        not isinstance(answer, dict)
        or answer.get("format") != OFFERS
        or not isinstance(answer.get("offers"), list)
    ):
        raise SupplierError(f"Its answer is no {OFFERS}.")
    rows = answer["offers"]
    if len(rows) > OFFERS_MOST:
        raise SupplierError(f"It sent {len(rows)} offers; at most {OFFERS_MOST} are taken.")
    offers: dict[str, Offered] = {}
    left_out: list[str] = []
    for n, row in enumerate(rows):
        try:
            offer = _offer(row, f"offers[{n}]")
        except InputError as error:
            left_out.append(str(error.faults[0]))
            continue
        if offer.code in offers:
            left_out.append(f"offers[{n}].code: {offer.code} is there twice")
            continue
        offers[offer.code] = offer
    return Feed(offers=tuple(offers.values()), left_out=tuple(left_out))


def _offer(row: Any, at: str) -> Offered:
    if not isinstance(row, dict):
        raise bad(at, "no object")
    texts = {}
    for name, (least, most) in TEXTS.items():
        text = row.get(name, "")
        if not isinstance(text, str) or not least <= len(text.strip()) <= most or not text.isprintable():
            raise bad(f"{at}.{name}", f"enter a text of {least} to {most} characters")
        texts[name] = text.strip()
    return Offered(
        **texts,
        price=_price(row.get("price"), f"{at}.price"),
        stock=_whole(row.get("stock"), STOCK_MOST, f"{at}.stock"),
        lead_days=_whole(row.get("lead_days"), DAYS_MOST, f"{at}.lead_days"),
    )


def _price(value: Any, at: str) -> Decimal | None:
    if value is None:
        return None
    try:
        price = (
            Decimal(value)
            if isinstance(value, str)
            else Decimal(str(value if type(value) in (int, float) else ""))
        )
    except InvalidOperation:
        raise InputError([Fault(path=at, says=f"{str(value)[:40]!r} is no price")]) from None
    if not price.is_finite() or not 0 <= price < PRICE_UNDER:
        raise bad(at, f"{str(value)[:40]!r} is no price")
    return round(price, 2)


def _whole(value: Any, most: int, at: str) -> int | None:
    if value is None:
        return None
    if type(value) is not int or not 0 <= value <= most:
        raise bad(at, f"{str(value)[:40]!r} given; 0 to {most} allowed")
    return value


def days_of_lines(answer: Any) -> dict[str, datetime.date]:
    """Return by code the day on which a line of an order comes, as far as its supplier says. Raises SupplierError."""
    lines = answer.get("lines") if isinstance(answer, dict) and answer.get("format") == ORDER else None
    if not isinstance(lines, list):
        raise SupplierError(f"Its answer is no {ORDER}.")
    found = {}
    for line in lines[:OFFERS_MOST]:
        if isinstance(line, dict) and isinstance(line.get("due"), str):
            with contextlib.suppress(ValueError):
                found[str(line.get("code"))] = datetime.date.fromisoformat(line["due"])
    return found


def sent_number(answer: Any, lines: Mapping[str, int]) -> str:
    """Return the supplier's number of an order that it took. Raises SupplierError where it took something else."""
    if (
        not isinstance(answer, dict)
        or answer.get("format") != ORDER
        or not isinstance(answer.get("lines"), list)
    ):
        raise SupplierError(f"Its answer is no {ORDER}.")
    number = answer.get("id")
    if not isinstance(number, str) or not 1 <= len(number) <= 60 or not number.isprintable():
        raise SupplierError("It gave the order no number.")
    taken: dict[str, int] = {}
    for line in answer["lines"]:
        if isinstance(line, dict) and type(line.get("count")) is int:
            taken[str(line.get("code"))] = taken.get(str(line.get("code")), 0) + line["count"]
    if taken != dict(lines):
        raise SupplierError("It took another order than was sent: ask there before you rely on it.")
    return number
