"""How the house is kept: sizes of templates and views, what is sent, one style sheet a page."""

import ast
import gzip
import re
import tokenize
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import grimp
import pytest

import unkett
from tests import architecture
from unkett.web import pages, site

PAGES = Path(pages.__file__).parent
SITE = Path(site.__file__).parent
TEMPLATES = [*PAGES.rglob("*.html"), *(SITE / "templates").rglob("*.html")]
LINES, CHARACTERS, VIEW_LINES, SENT = 120, 120, 25, 60_000
SOURCE = Path(unkett.__file__).parent
ROOT = SOURCE.parents[1]
FILE_LINES, FUNCTION_LINES = 400, 60
# Files and functions that are longer still, with the length they may have: shorten them, never lengthen.
LONGER_FILES = {
    "core/ways/model.py": 457,
    "web/transfer/datasets.py": 601,
}
LONGER_FUNCTIONS = {
    "core/calc/dropper.py:_dropper": 64,
    "core/calc/geometry.py:fork_swap": 64,
    "core/drawing/bottom_bracket.py:bracket_scene": 95,
    "core/drawing/brakes.py:rotor_scene": 91,
    "core/drawing/sections.py:steerer_scene": 69,
}


def test_templates_are_short_and_narrow() -> None:
    for template in TEMPLATES:
        lines = template.read_text(encoding="utf-8").splitlines()
        assert len(lines) <= LINES, template
        assert [line for line in lines if len(line) > CHARACTERS] == [], template


def test_views_are_short() -> None:
    """What takes a request takes 25 lines at most, its decorator and docstring counted."""
    for path in PAGES.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.FunctionDef) and any(arg.arg == "request" for arg in node.args.args):
                size = (node.end_lineno or 0) - node.lineno + 1
                assert size <= VIEW_LINES, (path.name, node.name, size)


def test_script_and_styles_together_are_small() -> None:
    """60 kB compressed at most, all pages taken together."""
    sent = [path for ending in ("*.js", "*.css") for path in (SITE / "static").rglob(ending)]
    assert len(sent) > 5
    assert sum(len(gzip.compress(path.read_bytes())) for path in sent) <= SENT


def test_every_style_sheet_is_linked_by_some_page() -> None:
    linked = "".join(template.read_text(encoding="utf-8") for template in TEMPLATES)
    for sheet in (SITE / "static" / "site").glob("*.css"):
        assert f'"{sheet.stem}"' in linked or f"site/{sheet.name}" in linked, sheet.name


def test_every_template_is_used() -> None:
    everything = "".join(path.read_text(encoding="utf-8") for path in (*PAGES.rglob("*.py"), *TEMPLATES))
    for template in PAGES.rglob("*.html"):
        name = template.relative_to(PAGES).as_posix()
        assert f'"{name}"' in everything, name


def _sources() -> list[Path]:
    return [path for path in sorted(SOURCE.rglob("*.py")) if "migrations" not in path.parts]


def test_files_are_short() -> None:
    lengths = {str(path.relative_to(SOURCE)): len(path.read_text().splitlines()) for path in _sources()}
    assert {name: n for name, n in lengths.items() if n > LONGER_FILES.get(name, FILE_LINES)} == {}
    assert {
        name for name in LONGER_FILES if lengths.get(name, 0) <= FILE_LINES
    } == set()  # take them off the list


def test_functions_are_short() -> None:
    lengths = {
        f"{path.relative_to(SOURCE)}:{node.name}": (node.end_lineno or 0) - node.lineno + 1
        for path in _sources()
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef)
    }
    assert {name: n for name, n in lengths.items() if n > LONGER_FUNCTIONS.get(name, FUNCTION_LINES)} == {}
    assert {name for name in LONGER_FUNCTIONS if lengths.get(name, 0) <= FUNCTION_LINES} == set()


def test_no_modules_import_each_other_round_a_circle() -> None:
    graph = grimp.build_graph("unkett", include_external_packages=False, exclude_type_checking_imports=True)
    imports = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    try:
        TopologicalSorter(imports).prepare()
    except CycleError as error:
        pytest.fail(f"imports round a circle: {' → '.join(error.args[1])}")


def test_the_picture_of_the_architecture_is_current() -> None:
    assert architecture.PICTURE.read_text() == architecture.drawn()


GONE_WORDS = re.compile(r"\b(told|anew|whence)\b")  # of docstrings and comments


def test_gone_words_stay_out_of_docstrings_and_comments() -> None:
    """Docstrings and comments are plain English: they report, make again and name where a thing comes from."""
    found = []
    for path in _sources():
        with path.open("rb") as file:
            texts = [
                token
                for token in tokenize.tokenize(file.readline)
                if token.type == tokenize.COMMENT or token.string.startswith('"""')
            ]
        found += [
            f"{path.relative_to(SOURCE)}:{text.start[0]}" for text in texts if GONE_WORDS.search(text.string)
        ]
    assert found == []


def test_gone_names_stay_gone() -> None:
    """No module, class, function or variable is called by a name that the glossary replaced; no docstring uses it."""
    lines = (ROOT / "tests" / "gone_names.txt").read_text(encoding="utf-8").splitlines()
    gone = dict(line.split() for line in lines if line and not line.startswith("#"))
    found = []
    for path in sorted(
        [*SOURCE.rglob("*.py"), *(ROOT / "tests").rglob("*.py"), *(ROOT / "bench").rglob("*.py")]
    ):
        if "migrations" in path.parts:
            continue
        if path.stem in gone:
            found.append(f"{path.relative_to(ROOT)}: {path.stem} is called {gone[path.stem]}")
        with path.open("rb") as file:
            names = {
                token.string for token in tokenize.tokenize(file.readline) if token.type == tokenize.NAME
            }
        found += [f"{path.relative_to(ROOT)}: {name} is called {gone[name]}" for name in names & gone.keys()]
    assert found == []
