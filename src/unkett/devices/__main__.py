"""`./unkett instruments [--port N] [--origin URL] [SOURCE…]`: the bridge, with stand-ins where no source is named."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import sys

from unkett.devices import supplier
from unkett.devices.bridge import HOST, PORT, Bridge, SourceError
from unkett.devices.readings import NAMES
from unkett.devices.standins import GearStandIn, StandIn

HELP = "SOURCE is tcp:HOST:PORT or serial:/dev/ttyUSB0; none: stand-ins, pressed by typing such as CAL 34.87"


async def _with_stand_ins(port: int, origins: list[str]) -> None:
    stand_ins = {code: StandIn(code) for code in NAMES}
    gear = GearStandIn()
    for one in (*stand_ins.values(), gear):
        await one.plug_in()
    bridge = Bridge([one.source for one in (*stand_ins.values(), gear)], port, origins)
    print(
        f"unkett: instruments at http://{HOST}:{port}/events; stand-ins {', '.join(stand_ins)}, GEA",
        flush=True,
    )
    print(
        "unkett: type a code and a number, such as CAL 34.87; GEA pairs the gear, GEA 2 trims it", flush=True
    )
    running = asyncio.create_task(bridge.run())
    while line := await asyncio.to_thread(sys.stdin.readline):
        code, _, number = line.strip().upper().partition(" ")
        if code == "GEA":
            _gear(gear, number)
            continue
        try:
            print(f"  {stand_ins[code].press(float(number))}", flush=True)
        except (KeyError, ValueError):
            print(f"  {line.strip()}: one of {', '.join(stand_ins)} and a number is wanted", flush=True)
    await running


def _gear(gear: GearStandIn, number: str) -> None:
    """Pair it, or trim it by clicks."""
    if not number:
        gear.pair()
    elif number.lstrip("+-").isdecimal():
        gear.click(int(number))
    print(f"  paired {gear.paired}, battery {gear.battery}, trim {gear.trim}", flush=True)


def main(args: list[str]) -> int:
    """Serve until Ctrl-C; `supplier` serves the stand-in of one. Exit 2 for a source that is none."""
    if args[:1] == ["supplier"]:
        return supplier.main(args[1:])
    parser = argparse.ArgumentParser(prog="./unkett instruments", description=HELP)
    parser.add_argument("--port", type=int, default=PORT, help=f"where pages listen ({PORT})")
    parser.add_argument(
        "--origin", action="append", default=[], help="an address of Unkett that is not on loopback"
    )
    parser.add_argument("sources", nargs="*", metavar="SOURCE")
    given = parser.parse_args(args)
    try:
        bridge = Bridge(given.sources, given.port, given.origin)
    except SourceError as error:
        print(f"unkett: {error}", file=sys.stderr)
        return 2
    with contextlib.suppress(KeyboardInterrupt):
        if given.sources:
            print(f"unkett: instruments at http://{HOST}:{given.port}/events", flush=True)
            asyncio.run(bridge.run())
        else:
            asyncio.run(_with_stand_ins(given.port, given.origin))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
