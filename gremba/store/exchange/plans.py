"""Stores the lines of academic plans; each version holds its lines in one document."""

from __future__ import annotations

from typing import Any

from peewee import SQL, Expression, Select, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.models import AcademicPlan, Person
from gremba.store.queries import write


def plan_lines_as_kept() -> Select:
    """The lines of every version of every plan, one per row."""
    own = AcademicPlan
    places = fn.generate_series(1, fn.jsonb_array_length(own.lines)).alias("place")
    place = SQL('"place"."place"')
    line = Expression(own.lines, "->", SQL('"place"."place" - 1'))

    def text(name: str) -> Any:
        return Expression(line, "->>", SQL(f"'{name}'"))

    courses = fn.jsonb_array_elements_text(Expression(line, "->", SQL("'courses'")))
    return (
        Select(
            (own, Person, places),
            (
                Person.username.alias("username"),
                own.version.alias("version"),
                place.alias("place"),
                text("term").alias("term"),
                fn.ARRAY(Select(columns=[courses])).alias("courses"),
                text("count").cast("integer").alias("count"),
                fn.NULLIF(text("section"), "").alias("section"),
                text("note").alias("note"),
            ),
        )
    ).where(Person.id == own.student)


def merge_plan_lines(database: PooledPostgresqlDatabase, stage: Any) -> None:
    """Write the staged lines into the new versions. Versions that existed keep their own lines."""
    line = fn.jsonb_build_object(
        *(SQL("'term'"), stage.c.term),
        *(SQL("'courses'"), fn.to_jsonb(stage.c.courses)),
        *(SQL("'count'"), stage.c.count),
        *(SQL("'section'"), fn.COALESCE(stage.c.section, "")),
        *(SQL("'note'"), stage.c.note),
    )
    in_order = fn.jsonb_agg(Expression(line, "ORDER BY", stage.c.place)).alias("lines")
    staged = (
        stage.select(stage.c.username, stage.c.version, in_order)
        .group_by(stage.c.username, stage.c.version)
        .alias("staged")
    )
    is_new = (AcademicPlan.version == staged.c.version) & (AcademicPlan.lines == SQL("'[]'::jsonb"))
    update = AcademicPlan.update({AcademicPlan.lines: staged.c.lines}).from_(staged, Person)
    write(
        database,
        update.where((Person.username == staged.c.username) & (AcademicPlan.student == Person.id) & is_new),
    )
