"""Seat pools, reserved seats, and freed seats."""

from __future__ import annotations

from peewee import BooleanField, CompositeKey, DateField, IntegerField, TextField

from gremba.core.states import ReservedFor
from gremba.store.models.base import (
    Choice,
    Counted,
    Identity,
    Moment,
    Reference,
    Table,
    check,
    default,
    unique,
)
from gremba.store.models.catalogue import Term


class SeatPool(Table):
    """Seats of one section, or shared by several. Triggers keep the figures in step with registrations and
    waitlists (store/triggers.sql), and a check prevents overselling."""

    id = Identity()
    term = Reference(Term)
    seat_limit = IntegerField(constraints=[check("seat_limit >= 0")])
    taken = IntegerField(constraints=[default("0"), check("taken >= 0")])
    offered = IntegerField(
        constraints=[default("0"), check("offered >= 0")], help_text="held for open offers"
    )
    beyond = IntegerField(
        constraints=[default("0"), check("beyond >= 0")],
        help_text="taken over the limit, with permission or since the limit was lowered",
    )

    class Meta:
        table_name = "seat_pools"
        constraints = [
            unique("id", "term_id"),
            check("taken + offered <= seat_limit + beyond", "never_oversold"),
        ]
        # Rows change all the time: room to do so where they are.
        table_settings = ["WITH (fillfactor=50)"]


class ReservedSeats(Table):
    """A part of a pool's seats, reserved for a cohort, a program, a campus, or a residence."""

    pool = Reference(SeatPool)
    group_kind = Choice(ReservedFor)
    group_value = TextField()
    seats = IntegerField(constraints=[check("seats > 0")])
    release_on = DateField(null=True, help_text="the day from which they are open to all")
    id = Counted()
    released = BooleanField(constraints=[default("false")], help_text="whether the release has been recorded")

    class Meta:
        table_name = "reserved_seats"
        primary_key = CompositeKey("pool", "group_kind", "group_value")


class FreedSeat(Table):
    """A pool with a free seat and a waitlist. Whoever frees the seat adds the row in the same transaction;
    it is deleted when the seat has been given."""

    pool = Reference(SeatPool, primary_key=True)
    at = Moment(constraints=[default("now()")])

    class Meta:
        table_name = "freed_seats"
