"""Reads and writes the rates and fees of a term."""

from __future__ import annotations

from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.tariff import FeeRefund, FeeScope, RateClass, Tariff, TariffFee
from gremba.core.states import Delivery
from gremba.store import models
from gremba.store.queries import fetch, write


def read_tariff(database: PooledPostgresqlDatabase, term: Any) -> Tariff:
    """A term's rates and fees; without rates, credits cost nothing. Two statements.

    Args:
        term: its row.
    """
    rate, fee = models.TariffRate, models.TariffFee
    rates = fetch(
        database,
        rate.select(
            rate.rate_class,
            rate.name,
            rate.per_credit_cents,
            rate.band_cents,
            rate.band_from,
            rate.band_to,
            rate.audit_per_credit_cents,
        )
        .where(rate.term == term.id)
        .order_by(rate.rate_class),
        _rates,
    )
    fees = fetch(
        database,
        fee.select(fee.label, fee.cents, fee.campus, fee.delivery, fee.for_each, fee.refund)
        .where(fee.term == term.id)
        .order_by(fee.id),
        _fee,
    )
    return Tariff({"": RateClass()} | dict(rates), tuple(fees), term.late_from, term.late_cents)


def insert_tariff(database: PooledPostgresqlDatabase, term_id: int, tariff: Tariff) -> None:
    """Store the rates and fees of a term that has none; the late fee is in the term's row."""
    rates = [{"term": term_id, **row} for row in rate_rows(tariff)]
    write(database, models.TariffRate.insert_many(rates))
    fees = [{"term": term_id, **row} for row in fee_rows(tariff)]
    if fees:
        write(database, models.TariffFee.insert_many(fees))


def rate_rows(tariff: Tariff) -> list[dict[str, Any]]:
    """Rates as columns of their table, without the term."""
    return [
        {
            "rate_class": rate_class,
            "name": rates.name,
            "per_credit_cents": rates.per_credit,
            "band_cents": rates.band_cents,
            "band_from": rates.band_from,
            "band_to": rates.band_to,
            "audit_per_credit_cents": rates.audit_per_credit,
        }
        for rate_class, rates in tariff.classes.items()
    ]


def fee_rows(tariff: Tariff) -> list[dict[str, Any]]:
    """Fees as columns of their table, without the term."""
    return [
        {
            "label": fee.label,
            "cents": fee.cents,
            "campus": fee.value if fee.scope is FeeScope.CAMPUS else None,
            "delivery": fee.value if fee.scope is FeeScope.DELIVERY else None,
            "for_each": fee.each,
            "refund": fee.refund.value,
        }
        for fee in tariff.fees
    ]


def _rates(
    rate_class: str, per_credit_cents: int, audit_per_credit_cents: int, **row: Any
) -> tuple[str, RateClass]:
    return rate_class, RateClass(per_credit_cents, audit_per_credit=audit_per_credit_cents, **row)


def _fee(
    label: str, cents: int, campus: str | None, delivery: Delivery | None, for_each: bool, refund: FeeRefund
) -> TariffFee:
    if campus is not None:
        return TariffFee(label, cents, FeeScope.CAMPUS, campus, for_each, refund)
    if delivery is not None:
        return TariffFee(label, cents, FeeScope.DELIVERY, delivery.value, for_each, refund)
    return TariffFee(label, cents, FeeScope.TERM, "", for_each, refund)
