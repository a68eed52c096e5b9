"""The time zone in which a folder's moments are read and written."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from peewee import SQL, Select, Table, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import Term
from gremba.store.queries import fetch_values, has_rows


def college_zone(database: PooledPostgresqlDatabase) -> ZoneInfo:
    """The time zone of the latest term; UTC if there is none."""
    zones = fetch_values(database, Term.select(Term.zone).order_by(Term.first_day.desc()).limit(1))
    return ZoneInfo(zones[0]) if zones else ZoneInfo("UTC")


def speak_in(database: PooledPostgresqlDatabase, zone: ZoneInfo) -> None:
    """Return times in this zone until the transaction ends, instead of the machine's. A zone that the
    database does not know becomes UTC."""
    names = Table("pg_timezone_names")
    is_known = has_rows(database, names.select(SQL("1")).where(names.c.name == zone.key))
    name = zone.key if is_known else "UTC"
    fetch_values(database, Select(columns=[fn.set_config("TimeZone", name, SQL("true"))]))
