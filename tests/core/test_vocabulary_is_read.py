"""Nothing is collected that nobody reads: each attribute has a rule, a calculation, a drawing or a step."""

import re
from pathlib import Path

from unkett import core
from unkett.core.check.engine import kind_reads
from unkett.core.vocabulary import KINDS

CORE = Path(core.__file__).parent
ELSEWHERE = "\n".join(
    path.read_text()
    for pattern in ("**/*.py", "**/*.toml")
    for path in CORE.glob(pattern)
    if "vocabulary" not in path.parts
    and "identify" not in path.parts
    and not path.stem.startswith(("complaint", "look_over"))  # their words are the trade's, not names
)
REASONS = re.compile(r'\bwhy=(?:"[^"\n]*"|\((?:\s*"[^"\n]*")+\s*\))')  # sentences for readers, not names
WORDS = set(re.findall(r"[a-z][a-z0-9_]+", REASONS.sub("", ELSEWHERE)))

# why an attribute is kept that nothing reads yet
KEPT = {
    "caliper.pistons": "tells which pads to order; no joint depends on it",
    "chain.directional": "which way round it goes on; the mechanic sees the arrow",
    "tyre.directional": "which way round it goes on; the mechanic sees the arrow",
    "stem.mass_g": "a part's mass is kept beside its price",
}


def test_every_attribute_is_read_or_says_why_not() -> None:
    unread = {
        f"{kind.name}.{name}"
        for kind in KINDS.values()
        for name in kind.attributes
        if name not in kind_reads(kind.name) and name not in WORDS
    }
    assert unread == set(KEPT)
