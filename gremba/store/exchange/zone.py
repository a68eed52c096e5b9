"""The time zone in which a folder's moments are read and written."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from peewee import SQL, Select, Table, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import Term
from gremba.store.queries import fetch_values, has_rows


def college_zone(database: PooledPostgresqlDatabase) -> ZoneInfo:
    """The zone of the latest term there is; that of Greenwich before there is one."""
    zones = fetch_values(database, Term.select(Term.zone).order_by(Term.first_day.desc()).limit(1))
    return ZoneInfo(zones[0]) if zones else ZoneInfo("UTC")


def speak_in(database: PooledPostgresqlDatabase, zone: ZoneInfo) -> None:
    """Have moments given in a zone until the transaction ends, as people there read them; otherwise it would
    be that of the machine. In a zone that only newer tables know they are given in that of Greenwich."""
    names = Table("pg_timezone_names")
    is_known = has_rows(database, names.select(SQL("1")).where(names.c.name == zone.key))
    name = zone.key if is_known else "UTC"
    fetch_values(database, Select(columns=[fn.set_config("TimeZone", name, SQL("true"))]))
