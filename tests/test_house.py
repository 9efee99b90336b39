"""How the house is kept: sizes of templates and views, what is sent, one style sheet a page."""

import ast
import gzip
from pathlib import Path

from unkett.web import pages, site

PAGES = Path(pages.__file__).parent
SITE = Path(site.__file__).parent
TEMPLATES = [*PAGES.rglob("*.html"), *(SITE / "templates").rglob("*.html")]
LINES, CHARACTERS, VIEW_LINES, SENT = 120, 120, 25, 60_000


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
