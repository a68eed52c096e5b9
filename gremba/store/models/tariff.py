"""Rates by class of student, and fees."""

from __future__ import annotations

from peewee import BooleanField, CompositeKey, IntegerField, TextField

from gremba.core.account.tariff import FeeRefund
from gremba.core.states import Delivery
from gremba.store.models.base import Choice, Credits, Identity, Reference, Table, check, default, index
from gremba.store.models.catalogue import Campus, Term


class TariffRate(Table):
    """A term's tuition for one rate class; the class without a name is the default."""

    term = Reference(Term)
    rate_class = TextField()
    name = TextField(constraints=[default("''")], help_text="the class's name on statements")
    per_credit_cents = IntegerField(constraints=[check("per_credit_cents >= 0")])
    band_cents = IntegerField(
        null=True, constraints=[check("band_cents >= 0")], help_text="the flat price for the band"
    )
    band_from = Credits(constraints=[default("12")])
    band_to = Credits(constraints=[default("18")])
    audit_per_credit_cents = IntegerField(constraints=[default("0"), check("audit_per_credit_cents >= 0")])

    class Meta:
        table_name = "tariff_rates"
        primary_key = CompositeKey("term", "rate_class")
        constraints = [check("band_from <= band_to")]


class TariffFee(Table):
    """A term's fee in addition to tuition and to fees of courses and sections, in the order shown."""

    id = Identity()
    term = Reference(Term)
    label = TextField()
    cents = IntegerField(constraints=[check("cents >= 0")])
    campus = Reference(
        Campus, null=True, column_name="campus", help_text="the campus whose sections trigger it"
    )
    delivery = Choice(
        Delivery,
        null=True,
        help_text="the delivery of the sections that trigger it; with neither, any section",
    )
    for_each = BooleanField(
        constraints=[default("false")], help_text="charged with every section instead of once"
    )
    refund = Choice(FeeRefund)

    class Meta:
        table_name = "tariff_fees"
        constraints = [check("campus IS NULL OR delivery IS NULL")]


index(TariffFee, "tariff_fees_of_term", TariffFee.term)
