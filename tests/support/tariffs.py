"""Tariffs for tests."""

from __future__ import annotations

from gremba.core.account.tariff import RateClass, Tariff, TariffFee


def plain_tariff(per_credit: int = 0, per_term: int = 0) -> Tariff:
    """A tariff of one rate for every credit and one fee for the term."""
    fees = (TariffFee("Term fee", per_term),) if per_term else ()
    return Tariff({"": RateClass(per_credit)}, fees)
