"""How many random examples a test draws: few at each run, more with TEST_DEPTH=10."""

import os

DEPTH = int(os.environ.get("TEST_DEPTH", "1"))


def many(number: int) -> int:
    """Return a number of examples, times the depth that is asked for."""
    return number * DEPTH
