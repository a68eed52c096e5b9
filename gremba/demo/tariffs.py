"""Rates, fees and due dates of the demo's college."""

from __future__ import annotations

from datetime import date

from gremba.core.account.ledger import AnticipatedPaymentKind
from gremba.core.account.policy import AccountPolicy, DueDate, InstallmentPart, InstallmentPlan
from gremba.core.account.tariff import FeeScope, RateClass, Tariff, TariffFee
from gremba.demo.season import at

BEYOND = "beyond"
"""The class of students who come from beyond the valley."""

_CLASSES = {
    "": RateClass(24_500, "for the valley", audit_per_credit=6_000),
    BEYOND: RateClass(38_500, "from beyond the valley", band_cents=4_620_00, audit_per_credit=6_000),
}
_FEES = (
    TariffFee("Term fee", 16_500),
    TariffFee("online", 6_000, FeeScope.DELIVERY, "online any time", each=True),
)

THAW_TARIFF = Tariff(_CLASSES, _FEES)
HARVEST_TARIFF = Tariff(_CLASSES, _FEES, late_from=date(2027, 8, 16), late_cents=4_000)

DUE = at(date(2027, 8, 13), 17)
SECOND_DUE = at(date(2027, 8, 20), 12)
REST_DUE = at(date(2027, 10, 1), 17)

HARVEST_ACCOUNT = AccountPolicy(
    due_dates=(
        DueDate(DUE, 75, date(2027, 8, 9)),
        DueDate(SECOND_DUE, 75, date(2027, 8, 18)),
        DueDate(REST_DUE, 100, loses_seats=False),
    ),
    spare_below_cents=5_000,
    spared_kinds=frozenset({AnticipatedPaymentKind.SPONSOR, AnticipatedPaymentKind.BENEFITS}),
    installments=(
        InstallmentPlan(
            "four",
            "four parts",
            DUE,
            (
                InstallmentPart(25),
                InstallmentPart(25, at(date(2027, 9, 10), 17)),
                InstallmentPart(25, at(date(2027, 10, 8), 17)),
                InstallmentPart(25, at(date(2027, 11, 5), 17)),
            ),
        ),
    ),
    ask_back_until=SECOND_DUE,
)
