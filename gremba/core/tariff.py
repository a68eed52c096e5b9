"""What a college charges."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Tariff:
    """Rates in cents."""

    per_credit: int = 0
    per_term: int = 0
    """Charged once to whoever holds at least one section."""
