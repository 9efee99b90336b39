"""Every table is held against its columns when it is loaded; what is wrong names file, row and column."""

import re
import tomllib
from pathlib import Path

import pytest

from tests.cases import each
from unkett.core import standards
from unkett.core.errors import CoreError
from unkett.core.standards import columns, table, table_names
from unkett.core.work.templates import shipped

FOLDER = Path(standards.__file__).parent

# table, what is put in place of what in its file, what is said of it
MISTAKES = [
    ("steps", '"look:motor"', '"look:moter"', "column code: 'look:moter' is no step"),
    ("steps", 'only = ["motor"]', 'only = ["moter"]', "column only: 'moter' is no test"),
    ("steps", '"clean_shell"', '"clean_shel"', "column gives: 'clean_shel' is no fact"),
    ("spoils", '"wheel_seated_{end}"', '"wheel_sated_{end}"', "column settings: 'wheel_sated_{end}' is no fact"),
    ("holds", '"!in:front"', '"!in:frunt"', "column reach: '!in:frunt' is no fact"),
    ("steps", 'compound = "grease"', 'compound = "butter"', "column compound: 'butter' is no code of the table"),
    ("steps", "minutes = 4\n", 'minutes = "4"\n', "row 1 (look:bike), column minutes: '4' is no whole"),
    ("steps", 'torque = "', 'torque = "no_', "column torque: 'no_"),
    ("wear_sorts", '"pad_least_mm"', '"pad_lest_mm"', "row 3 (pad_mm), column limit_setting: 'pad_lest_mm'"),
    ("wear_sorts", 'unit = "%"\n', "", "row 1 (chain_pct): column unit is missing"),
    ("wear_sorts", 'unit = "%"', 'unit = "%"\nunti = "%"', 'column unti is not declared; did you mean "unit"?'),
    ("wear_sorts", 'slots = ["chain"]', 'slots = "chain"', "column slots: 'chain' where a list is wanted"),
    ("wear_sorts", 'way = "up"', 'way = "upp"', "column way: 'upp' is none of up, down, none"),
    ("bracket_conversions", 'by = "', 'by = "some ', "is no what of the table needs"),
    ("freehub_bodies", 'code = "spline9"', 'code = "spline99"', "column code: 'spline99' is no code freehub"),
    ("damage", '"frame", "fork"', '"frame", "spork"', "row 1 (crack), column forbids: 'spork' is no kind"),
]  # fmt: skip


def test_every_mistake_names_its_file_and_row(monkeypatch) -> None:
    def examine(row: tuple[str, str, str, str]) -> None:
        name, was, now, says = row
        source = (FOLDER / f"{name}.toml").read_text()
        head, _, body = source.partition("[[row]]")
        assert was in body
        loaded = tomllib.loads(f"{head}[[row]]{body.replace(was, now, 1)}")
        monkeypatch.setattr(standards, "_load", lambda asked: loaded if asked == name else load(asked))
        with pytest.raises(CoreError, match=re.escape(says)) as error:
            table.__wrapped__(name)
        assert str(error.value).startswith(f"standards/{name}.toml, row ")

    load = standards._load
    standards._values_of.cache_clear()
    each(MISTAKES, examine)
    standards._values_of.cache_clear()


def test_every_table_holds_what_its_columns_say() -> None:
    assert shipped()  # what tells of steps, facts and torques is loaded
    each(table_names(), table)
    assert columns._WAITING == {}  # every reference is reported of by somebody


def test_what_is_loaded_before_it_is_reported_of_is_checked_then() -> None:
    columns._WAITING["made up"] = [("standards/x.toml, row 1", "good"), ("standards/x.toml, row 2", "bad")]
    try:
        with pytest.raises(CoreError, match=r"standards/x.toml, row 2: 'bad' is no made up"):
            columns.refers("made up", lambda value: value == "good")
    finally:
        columns._KNOWS.pop("made up", None)
        columns._WAITING.pop("made up", None)


def test_what_is_kept_of_a_parsed_table_is_never_older_than_the_table(tmp_path, monkeypatch) -> None:
    """Kept beside the bytecode; read again after a change, and after the kept file was cut short."""
    monkeypatch.setattr(standards, "FOLDER", tmp_path)
    monkeypatch.setattr("sys.dont_write_bytecode", False)
    file, kept = tmp_path / "made.toml", tmp_path / "__pycache__" / "made.toml.parsed"
    file.write_text('title = "one"')
    assert standards._load("made") == {"title": "one"}
    assert kept.exists()
    assert standards._load("made") == {"title": "one"}
    file.write_text('title = "two"')
    assert standards._load("made") == {"title": "two"}
    kept.write_bytes(kept.read_bytes()[:7])
    assert standards._load("made") == {"title": "two"}
