"""How many examples a property is tried with: all that it asks for, or few while one is working."""

from __future__ import annotations

import os
from typing import Any

from hypothesis import settings

FAST = "GREMBA_TEST_FAST"
"""The variable of the environment that asks for few."""

FEW = 30


def examples(many: int, **more: Any) -> settings:
    """The settings of a property that wants so many examples."""
    return settings(max_examples=min(many, FEW) if FAST in os.environ else many, **more)
