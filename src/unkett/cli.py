"""The command line: reads a file, calls the core, prints JSON. No Django, no database.

Exit 0; 1 where a build's verdict is `no_go`; 2 on bad input, with the message on standard error
and nothing on standard output.
"""

from __future__ import annotations

import json
import os
import signal
import sys
from pathlib import Path
from typing import Any

from unkett.core.errors import CoreError, bad, listed, nearest
from unkett.core.formats.reader import parse_json, read_build

HELP = {
    "check": """usage: ./unkett check FILE|-

Checks a build (JSON, format unkett.build/1; - reads standard input) and prints its findings as one
JSON object: verdict, findings with traces and sources, open slots.
Exit 0; 1 where the verdict is no_go; 2 on bad input, reported on standard error.""",
    "calc": """usage: ./unkett calc NAME FILE|-      run a calculation on a JSON object of inputs
       ./unkett calc --list           name the calculations
       ./unkett calc NAME --help      its inputs, with units and ranges""",
    "plan": """usage: ./unkett plan FILE|-

Finds the best ways from a bike to a wish (JSON, format unkett.wish/1; - reads standard input) and prints
them as one JSON object (unkett.ways/1); where there is none, what cannot hold together.
"seconds" (10 by default) is the time for each objective.
Exit 0 with at least one way; 1 with none; 2 on bad input, reported on standard error.""",
    "job": """usage: ./unkett job FILE|-
       ./unkett job --defects
       ./unkett job --replay FILE|-

Turns a bike, a plan for it and the inspection's defects (JSON, format unkett.work/1; - reads standard input)
into an ordered sheet of steps and prints it as one JSON object (unkett.job/1): tools, compound, torque,
minutes, waits, what each step requires. --defects lists the codes of the inspection with slot and words.
--replay walks a sheet ({"work", "job"}) over the bike and names the first step that cannot be done.
Exit 0; 1 for a sheet that cannot be done; 2 on bad input, reported on standard error.""",
    "quote": """usage: ./unkett quote FILE|-

Prices a job from its sheet: {"work": unkett.work/1, "money": {"currency", "labour_per_hour", "tax_pct",
"consumables", "prices", "small_parts", "outside", "given", "brought"}}; - reads standard input. Prints one JSON
object (unkett.quote/1): a line for each cause, and what has no price.
Exit 0; 2 on bad input, reported on standard error.""",
    "finish": """usage: ./unkett finish FILE|-

The bike after the hand-over: {"work": unkett.work/1, "readings": {id: number or one for each bolt},
"kept": {id: {"why", "who"}}, "skipped": [ids]}; - reads standard input. Prints a build (unkett.build/1) with the
needs that are settled. A reading outside its range is refused unless it is kept.
Exit 0; 2 on bad input, reported on standard error.""",
    "identify": """usage: ./unkett identify FILE|-

Ranks the standards that measurements fit (JSON; - reads standard input): an object with kind,
measures (reading names and mm) and, if wished, tolerance_mm. Prints one JSON object, the best fit first.
Exit 0; 2 on bad input, reported on standard error.""",
    "diagnose": """usage: ./unkett diagnose FILE|-
       ./unkett diagnose --tables

Ranks the causes of complaints and names the next checks (JSON, format unkett.complaint/1; - reads standard
input): complaints, answers to checks, and what is known of the bike. Prints one JSON object (unkett.causes/1).
--tables prints the complaints, causes, checks and what their results say.
Shares are by practice; nothing is certain before a check shows it. A bike with a stop is not ridden.
Exit 0; 2 on bad input, reported on standard error.""",
}
USAGE = """usage: ./unkett check FILE|-          check a build (unkett.build/1), print its findings
       ./unkett calc NAME FILE|-      run a calculation on a JSON object of inputs
       ./unkett calc --list           name the calculations
       ./unkett plan FILE|-           find ways from a bike to a wish (unkett.wish/1)
       ./unkett job FILE|-            turn a plan and defects into ordered steps (unkett.work/1)
       ./unkett quote FILE|-          price a job from its sheet
       ./unkett finish FILE|-         the bike after a job's hand-over
       ./unkett identify FILE|-       rank the standards that measurements fit
       ./unkett diagnose FILE|-       rank the causes of complaints (unkett.complaint/1)
       ./unkett COMMAND --help        more of each"""


def _read(path: str) -> bytes:
    try:
        return sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
    except OSError as error:
        raise bad(path, f"cannot be read: {error.strerror}") from error


def _print(value: Any) -> None:
    print(json.dumps(value, ensure_ascii=False, allow_nan=False))


def _check(args: list[str]) -> int:
    from unkett.core.check.engine import check
    from unkett.core.rules.finding import Verdict

    if len(args) != 1:
        raise bad("", USAGE)
    result = check(read_build(_read(args[0])))
    _print(result.to_json())
    return 1 if result.verdict is Verdict.NO_GO else 0


def _calc(args: list[str]) -> int:
    from unkett.core.calc.registry import CALCULATIONS

    if args == ["--list"]:
        print("\n".join(CALCULATIONS))
        return 0
    if len(args) != 2:
        raise bad("", USAGE)
    name, path = args
    if name not in CALCULATIONS:
        raise bad(name, f"unknown; {listed(CALCULATIONS)} allowed{nearest(name, CALCULATIONS)}")
    chosen = CALCULATIONS[name]
    if path == "--help":
        print("\n".join([f"{name}: {chosen.says}", "", *[f"  {wanted.line()}" for wanted in chosen.inputs]]))
        return 0
    _print(chosen.run(parse_json(_read(path))).to_json())
    return 0


def _identify(args: list[str]) -> int:
    from unkett.core.identify import identify_json

    if len(args) != 1:
        raise bad("", USAGE)
    _print(identify_json(parse_json(_read(args[0]))).to_json())
    return 0


def _plan(args: list[str]) -> int:
    from unkett.core.ways.ways import ways_json

    if len(args) != 1:
        raise bad("", USAGE)
    found = ways_json(parse_json(_read(args[0])))
    _print(found)
    return 0 if found["ways"] else 1


def _job(args: list[str]) -> int:
    from unkett.core.work.defect import defects_listed
    from unkett.core.work.parsing import replay_from, sheet_from

    if len(args) == 2 and args[0] == "--replay":
        found = replay_from(parse_json(_read(args[1])))
        _print(found.to_json())
        return 0 if found.ok else 1
    if len(args) != 1:
        raise bad("", USAGE)
    _print(defects_listed() if args == ["--defects"] else sheet_from(parse_json(_read(args[0]))).to_json())
    return 0


def _quote(args: list[str]) -> int:
    from unkett.core.work.quote_reader import quote_from

    if len(args) != 1:
        raise bad("", USAGE)
    _print(quote_from(parse_json(_read(args[0]))).to_json())
    return 0


def _finish(args: list[str]) -> int:
    from unkett.core.work.quote_reader import finished_from

    if len(args) != 1:
        raise bad("", USAGE)
    _print(finished_from(parse_json(_read(args[0]))).to_json())
    return 0


def _diagnose(args: list[str]) -> int:
    from unkett.core.diagnose.asked import asked_from
    from unkett.core.diagnose.search import causes_of
    from unkett.core.diagnose.tables import shipped, tables_json

    if len(args) != 1:
        raise bad("", USAGE)
    if args == ["--tables"]:
        _print(tables_json(shipped()))
        return 0
    _print(causes_of(asked_from(parse_json(_read(args[0])), shipped()), shipped()).to_json())
    return 0


COMMANDS = {
    "check": _check,
    "calc": _calc,
    "plan": _plan,
    "job": _job,
    "quote": _quote,
    "finish": _finish,
    "identify": _identify,
    "diagnose": _diagnose,
}


def main(args: list[str]) -> int:
    """Run one command; returns the exit code."""
    if args in ([], ["--help"], ["-h"]):
        print(USAGE)
        return 0
    if len(args) == 2 and args[0] in HELP and args[1] in ("-h", "--help"):
        print(HELP[args[0]])
        return 0
    command = COMMANDS.get(args[0])
    try:
        if command is None:
            raise bad(args[0], f"unknown; {listed(COMMANDS)} allowed{nearest(args[0], COMMANDS)}")
        return command(args[1:])
    except CoreError as error:
        print(str(error), file=sys.stderr)
        return 2


if __name__ == "__main__":
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)  # a reader that has seen enough ends the command quietly
    sys.stdout = os.fdopen(os.dup(1), "w", encoding="utf-8")
    os.dup2(2, 1)  # what a library prints of its own is no part of the answer
    sys.exit(main(sys.argv[1:]))
