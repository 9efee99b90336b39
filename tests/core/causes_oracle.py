"""The ranking a second time, slowly and from the tables alone: every hypothetical answer is simply ranked again."""

from __future__ import annotations

import math
import tomllib
from pathlib import Path
from typing import Any

TABLES = Path(__file__).resolve().parents[2] / "src/unkett/core/standards"


def rows(name: str) -> list[dict[str, Any]]:
    return tomllib.loads((TABLES / f"{name}.toml").read_text())["row"]


FIGURE = {row["code"]: row["value"] for row in rows("complaint_model")}
WEIGHT = {
    row["code"]: {
        cause: weight
        for weight, name in ((3, "usual"), (2, "sometimes"), (1, "rare"))
        for cause in row.get(name, ())
    }
    for row in rows("complaints")
}
STOP = {row["code"] for row in rows("complaints") if "stop" in row}
CAUSES = [row["code"] for row in rows("complaint_causes")]
DANGER = {row["code"] for row in rows("complaint_causes") if row.get("stop")}
CHECKS = {row["code"]: row for row in rows("complaint_checks")}
WORD = {
    (row["check"], row["result"], cause): word
    for row in rows("complaint_links")
    for word in ("shows", "strong", "weak", "against", "clears")
    for cause in row.get(word, ())
}


def usual(check: str, result: str) -> float:
    row = CHECKS[check]
    if row.get("even"):
        return 1 / len(row["results"])
    if result == row["results"][0]:
        return 0.85
    return 0.15 / (len(row["results"]) - 1)


def chance(check: str, result: str, cause: str | None) -> float:
    def error(one: str) -> float:
        return usual(check, one) * FIGURE[WORD.get((check, one, cause), "none")]

    return error(result) / sum(error(one) for one in CHECKS[check]["results"])


def weighed(complaint: str, others: list[str], said: list[tuple[str, str]], held: set[str], gone: set[str]):
    """x of every open cause and, under None, of the rest."""
    found: dict[str | None, float] = {}
    for cause, weight in WEIGHT[complaint].items():
        if cause in held or cause in gone:
            continue
        x = float(weight)
        for other in others:
            x *= 1 + WEIGHT[other].get(cause, 0)
        for check, result in said:
            x *= chance(check, result, cause)
        found[cause] = x
    x = 1 + 2 * sum(weight for cause, weight in WEIGHT[complaint].items() if cause in held)
    for check, result in said:
        x *= chance(check, result, None)
    found[None] = x
    return found


def entropy(x: dict[str | None, float]) -> float:
    whole = sum(x.values())
    return -sum(v / whole * math.log(v / whole, 2) for v in x.values() if v > 0)


def rank(complaints, answers, proven=(), excluded=()):
    """Order of causes with shares, the rest's share, the state, and the checks in their order with values."""
    said = [(check, result) for check, result in answers.items() if result is not None]
    gone = set(excluded)
    named = {cause for one in complaints for cause in WEIGHT[one]}
    held = {
        cause
        for cause in named
        if cause in proven or any(WORD.get((check, result, cause)) == "shows" for check, result in said)
    } - gone

    def xs(more=()):
        return {
            one: weighed(one, [other for other in complaints if other != one], [*said, *more], held, gone)
            for one in complaints
        }

    now = xs()
    share: dict[str | None, float] = {}
    for x in now.values():
        for cause, value in x.items():
            share[cause] = share.get(cause, 0) + value / sum(x.values()) / len(complaints)
    rest = share.pop(None)
    order = sorted(share, key=lambda cause: (-round(share[cause], 9), CAUSES.index(cause)))
    has_held = {one for one in complaints if set(WEIGHT[one]) & held}
    all_held = len(has_held) == len(complaints)
    counted = [one for one in complaints if all_held or one not in has_held]
    stopped = all_held and any(one in STOP for one in complaints)
    part = {one: {c: v / sum(x.values()) for c, v in x.items()} for one, x in now.items()}
    offers = []
    for n, check in enumerate(CHECKS):
        if check in answers:
            continue
        gain = 0.0
        after = {result: xs([(check, result)]) for result in CHECKS[check]["results"]}
        for one in counted:
            gain += entropy(now[one])
            for x in after.values():
                gain -= sum(x[one].values()) / sum(now[one].values()) * entropy(x[one])
        strong = {
            cause
            for cause in DANGER
            for result in CHECKS[check]["results"]
            if WORD.get((check, result, cause)) in ("shows", "strong")
        }
        held_together = [sum(p for c, p in part[one].items() if c in strong) for one in counted]
        safety = CHECKS[check]["does"] != "ask" and max(held_together) >= (0.02 if stopped else 0.05) - 1e-9
        value = gain / CHECKS[check]["minutes"] * (3 if safety else 1)
        offers.append((-round(value, 9), n, check, value, safety))
    offers.sort()
    minutes = {check: row["minutes"] for check, row in CHECKS.items()}

    def worth(offer):
        _, _, check, value, safety = offer
        if value < 0.02 - 1e-9:
            return False
        return not all_held or (minutes[check] <= 1 and value >= 0.2 - 1e-9) or (stopped and safety)

    line = [offer for offer in offers if worth(offer)]
    confirms = None
    if not all_held:
        best = {c: max(part[one].get(c, 0) for one in counted) for c in share}
        for cause in sorted(best, key=lambda c: (-round(best[c], 9), CAUSES.index(c))):
            if best[cause] < 0.5 - 1e-9:
                break
            shown_by = [
                o
                for o in offers
                if any(WORD.get((o[2], r, cause)) == "shows" for r in CHECKS[o[2]]["results"])
            ]
            if shown_by:
                sure = shown_by[0]
                before = [o for o in line if o != sure and o[4] and minutes[o[2]] <= 1 and o[3] > sure[3]]
                line = [*before, sure, *(o for o in line if o != sure and o not in before)]
                confirms = cause
                break
    state = "looking" if line else "found" if all_held else "not_found"
    return {
        "held": [cause for cause in CAUSES if cause in held],
        "order": order,
        "share": share,
        "rest": rest,
        "state": state,
        "next": [(offer[2], offer[3], offer[4]) for offer in line],
        "confirms": confirms,
    }
