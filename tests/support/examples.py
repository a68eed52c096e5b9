"""How many examples a property is tried with: two hundred, or few while one is working. One whose examples
are cheap asks for more, one whose examples are whole colleges for fewer."""

from __future__ import annotations

import os
from typing import Any

from hypothesis import settings

FAST = "GREMBA_TEST_FAST"
"""The variable of the environment that asks for few."""

FEW = 30
MANY = 200


def examples(many: int, **more: Any) -> settings:
    """The settings of a property that wants so many examples."""
    return settings(max_examples=min(many, FEW) if FAST in os.environ else many, **more)
