"""How many examples a property is tried with.

Each names how many ``./test --long`` tries. ``./test`` tries a quarter of them, ``./test --fast`` a few.
"""

from __future__ import annotations

import os
from typing import Any

from hypothesis import settings

FAST = "GREMBA_TEST_FAST"
"""The variable of the environment that asks for few examples."""
LONG = "GREMBA_TEST_LONG"
"""The one that asks for all."""

FEW = 30
MANY = 400
"""As many as a property tries that does not say."""


def how_many(most: int, least: int = FEW) -> int:
    """How many examples to try where ``--long`` tries ``most`` and ``--fast`` the ``least``."""
    if LONG in os.environ:
        return most
    return min(most, least if FAST in os.environ else max(least, most // 4))


def examples(most: int, **more: Any) -> settings:
    """The settings of a property for which ``--long`` tries so many examples."""
    return settings(max_examples=how_many(most), **more)
