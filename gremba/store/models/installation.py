"""What a database says about itself, and the demo's clock."""

from __future__ import annotations

from peewee import BooleanField, TextField

from gremba.store.models.base import Moment, Table, Words, check, default


class Installation(Table):
    """What this database is. A demo is marked as one, and only a marked demo is ever reset."""

    only_one = BooleanField(primary_key=True, constraints=[default("true"), check("only_one")])
    is_demo = BooleanField()
    is_complete = BooleanField(help_text="whether it was filled completely")
    columns = Words(
        constraints=[default("'{}'")],
        help_text='"table.column" of each that stood here when the migrations had been through',
    )
    triggers = TextField(
        constraints=[default("''")], help_text="the digest of the installed store/triggers.sql"
    )
    made_at = Moment(constraints=[default("now()")])

    class Meta:
        table_name = "installation"


class CampusClock(Table):
    """The campus time; set only in the demo."""

    only_one = BooleanField(primary_key=True, constraints=[default("true"), check("only_one")])
    campus_time = Moment()
    set_at = Moment(help_text="when it was set, by the database's clock")

    class Meta:
        table_name = "campus_clock"
