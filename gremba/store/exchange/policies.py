"""Stores a term's settings in its policy document."""

from __future__ import annotations

from typing import Any

from peewee import SQL, Expression, Select, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import Term
from gremba.store.queries import write


def policies_as_kept() -> Select:
    """The settings of every term, one per row."""
    setting = fn.jsonb_each(Term.policy).alias("setting")
    return Select(
        (Term, setting),
        (
            Term.code.alias("term"),
            SQL('"setting"."key"').alias("setting"),
            SQL('"setting"."value"').alias("value"),
        ),
    )


def merge_policies(database: PooledPostgresqlDatabase, stage: Any) -> None:
    """Write the staged settings into their terms; other settings stay."""
    settings = fn.jsonb_object_agg(stage.c.setting, stage.c.value).alias("settings")
    staged = stage.select(stage.c.term, settings).group_by(stage.c.term).alias("staged")
    merged = Expression(Term.policy, "||", staged.c.settings)
    update = Term.update({Term.policy: merged}).from_(staged)
    write(database, update.where((Term.code == staged.c.term) & (Term.policy != merged)))
