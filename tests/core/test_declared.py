"""Mistakes in a look are found when the rules are loaded, with file, line and rule."""

from pathlib import Path

import pytest

from tests.cases import each
from unkett.core.rules import cassette, declared

SOURCE = Path(cassette.__file__).read_text()

# what is put in place of what, and what is said of it
MISTAKES = [
    ("own, body = bodies[cassette.mount]", "own, body = bodies[cassette.moutn]", "reads cassette.moutn"),
    ("cassette.extra_spacer_mm or 0.0", "cassette.extra_mm or 0.0", "reads cassette.extra_mm"),  # in a helper
    ("require(cassette).dished_mm >= too", "require(cassette).pitches_mm >= too", "requires cassette.pitches_mm"),
    ('goes("own_body")', 'goes("own_boddy")', 'the rule has no message "own_boddy"'),
    ('"spacer_there" if fitted', '"spacer_here" if fitted', 'the rule has no message "spacer_here"'),
    ("ratio=ratio", "rate=ratio", "the rule declares no figure rate"),
    ('need("cog spacers"', 'need("cog spacer"', 'the table of needs has no "cog spacer"'),
    ('way_out(hub, "freehub_spacer_mm"', 'way_out(hub, "freehub_spacer"', "has no attribute freehub_spacer"),
    ('"cog_min_teeth", "cog_max_teeth")', '"cog_min", "cog_max_teeth")', "reads hub.cog_min,"),
    ("    return None\n\n\n@FIXED.clause(\"cassette.mount derailleur\")",
     "    return SILENT\n\n\n@FIXED.clause(\"cassette.mount derailleur\")", ""),
    ("if not hub.internal_gears or crank.empty:\n        return None",
     "if not hub.internal_gears or crank.empty:\n        return SILENT", "does not say silences=True"),
]  # fmt: skip


def test_every_mistake_is_named_with_its_place() -> None:
    def examine(row: tuple[str, str, str]) -> None:
        was, now, says = row
        assert SOURCE.count(was) >= 1
        source = SOURCE.replace(was, now, 1)
        faults = list(declared.faults_of(Path(cassette.__file__), source))
        if not says:
            assert faults == []
            return
        line = source[: source.index(now)].count("\n") + 1
        assert faults
        assert all(says in fault and " rule " in fault for fault in faults), faults
        lines = {int(fault.split(":")[1]) for fault in faults}
        assert abs(min(lines) - line) <= 3, (line, faults)  # the statement it stands in

    each(MISTAKES, examine)


def test_what_is_good_is_remembered_and_what_is_not_is_refused(monkeypatch, tmp_path) -> None:
    monkeypatch.setattr(declared, "REMEMBERED", tmp_path / "declared.good")
    declared.refuse_undeclared()
    mark = (tmp_path / "declared.good").read_text()
    read = []
    monkeypatch.setattr(declared, "faults_of", lambda path, source: read.append(path) or ["a fault"])
    declared.refuse_undeclared()
    assert read == []
    (tmp_path / "declared.good").write_text(f"{mark}x")  # of other sources
    with pytest.raises(declared.CoreError, match="a fault"):
        declared.refuse_undeclared()
    assert len(read) > 15
