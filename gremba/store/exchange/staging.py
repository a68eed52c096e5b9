"""Stages a folder's tables for one transaction: checks, compares and merges them set by set, so that memory
does not grow with the tables."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from peewee import SQL, Expression, Select, Table, Value, fn
from playhouse.pool import PooledPostgresqlDatabase
from psycopg import sql
from psycopg.types.json import Jsonb

from gremba.core.exchange.definition import Column, ExchangeTable, NamedRow, ValueKind
from gremba.core.exchange.tables import BY_NAME, is_by_term
from gremba.store import models as m
from gremba.store.database import run_sql
from gremba.store.exchange.kept import KEPT, Kept, as_kept, pools_of_sections, terms_by_code
from gremba.store.exchange.plans import merge_plan_lines, plan_lines_as_kept
from gremba.store.exchange.policies import merge_policies, policies_as_kept
from gremba.store.queries import fetch_tuples, fetch_value, lock_until_end, write

_TYPES = {
    ValueKind.TEXT: "text",
    ValueKind.WHOLE: "integer",
    ValueKind.CREDITS: "numeric(4,1)",
    ValueKind.MONEY: "integer",
    ValueKind.DAY: "date",
    ValueKind.TIME: "time",
    ValueKind.ZONE: "text",
    ValueKind.MOMENT: "timestamptz",
    ValueKind.YES_NO: "boolean",
    ValueKind.CHOICE: "text",
    ValueKind.LIST: "text[]",
    ValueKind.REQUISITE: "jsonb",
    ValueKind.FEES: "jsonb",
    ValueKind.REFUNDS: "jsonb",
    ValueKind.GROUPS: "jsonb",
    ValueKind.DOCUMENT: "jsonb",
}
_DOCUMENTS = {kind for kind, type_ in _TYPES.items() if type_ == "jsonb"}

_MORE = {
    "sections": ", pool_id integer",
    "courses": """, course text GENERATED ALWAYS AS ("subject" || ' ' || "number") STORED""",
}
"""What a staged table has beside its columns."""

MOST_TOLD = 1_000
"""Mistakes of one kind in one table that are told one by one."""


_IN_DOCUMENTS = {
    "policies": (policies_as_kept, merge_policies),
    "plan_lines": (plan_lines_as_kept, merge_plan_lines),
}
"""Tables whose rows are kept in documents of others: how they are read out, and merged in."""


def kept_query(name: str) -> Select:
    """A query of a table's stored rows, under the folder's names."""
    return _IN_DOCUMENTS[name][0]() if name in _IN_DOCUMENTS else as_kept(name)


_LOCK = 0x6578636861


def lock_exchange(database: PooledPostgresqlDatabase) -> None:
    """Serializes imports of terms and sections."""
    lock_until_end(database, _LOCK)


def limit_statements(database: PooledPostgresqlDatabase, seconds: int) -> None:
    """Sets a statement timeout for the transaction."""
    run_sql(database, f"SET LOCAL statement_timeout = '{seconds:d}s'")


def plan_for_sets(database: PooledPostgresqlDatabase) -> None:
    """Makes the transaction's statements use hash and merge joins. Freshly staged rows have no statistics,
    so the planner would assume few and use nested loops: hours instead of a minute."""
    run_sql(database, "SET LOCAL enable_nestloop = off")
    run_sql(database, "SET LOCAL work_mem = '64MB'")


class Staged:
    """A staged table of the folder.

    Attributes:
        table: its definition.
        columns: those that the folder has, in the definition's order.
        rows: how many there are of it.
        stage: the staged rows.
    """

    def __init__(
        self, database: PooledPostgresqlDatabase, table: ExchangeTable, present: Iterable[str]
    ) -> None:
        self._database = database
        self.table = table
        self.rows = 0
        given = set(present) | set(table.key)
        self.columns = tuple(column for column in table.columns if column.name in given)
        self.stage_name = f"staged_{table.name}"
        self.stage = Table(self.stage_name)
        listed = ", ".join(f'"{c.name}" {_TYPES[c.kind]}' for c in table.columns)
        more = _MORE.get(table.name, "")
        columns = f"line integer, {listed}{more}"
        run_sql(database, f"CREATE TEMP TABLE {self.stage_name} ({columns}) ON COMMIT DROP")

    def fill(self, rows: Iterable[tuple[int, Sequence[Any]]]) -> int:
        """Stage rows; returns how many.

        Args:
            rows: the line, and a value for each column of the definition.
        """
        names = ["line", *(c.name for c in self.table.columns)]
        documents = [c.kind in _DOCUMENTS for c in self.table.columns]
        command = sql.SQL("COPY {} ({}) FROM STDIN").format(
            sql.Identifier(self.stage_name), sql.SQL(", ").join(map(sql.Identifier, names))
        )
        many = 0
        with self._database.connection().cursor() as cursor, cursor.copy(command) as copy:
            for line, values in rows:
                kept = [
                    Jsonb(value) if is_document and value is not None else value
                    for value, is_document in zip(values, documents, strict=True)
                ]
                copy.write_row([line, *kept])
                many += 1
        run_sql(self._database, f"ANALYZE {self.stage_name}")
        return many

    # ------------------------------------------------------------------ what is wrong

    def twice(self) -> list[tuple[list[int], tuple[Any, ...]]]:
        """Keys of more than one row: the lines, and the key."""
        keys = [self.column(name) for name in self.table.key]
        lines = fn.array_agg(SQL("line ORDER BY line"))
        query = (
            self.stage.select(lines, *keys).group_by(*keys).having(fn.COUNT(SQL("*")) > 1).limit(MOST_TOLD)
        )
        return [(row[0], row[1:]) for row in fetch_tuples(self._database, query)]

    def naming_nothing(self, target: NamedRow, staged: Staged | None) -> list[tuple[int, tuple[Any, ...]]]:
        """Rows that refer to a row neither in the folder nor stored: the line, and the reference.

        Args:
            staged: the other table, where the folder has it.
        """
        rows = self._one_a_row(target)
        ours = [getattr(rows.c, name) for name in target.columns.values()]
        named = Select((rows,), (rows.c.line, *ours))
        for column in ours:
            named = named.where(column.is_null(False))
        kept = kept_query(target.table).alias("kept")
        named = named.where(~fn.EXISTS(matching(kept, target, ours)))
        if staged is not None:
            named = named.where(~fn.EXISTS(matching(staged.stage.alias("other"), target, ours)))
        query = named.order_by(SQL("line")).limit(MOST_TOLD)
        return [(row[0], row[1:]) for row in fetch_tuples(self._database, query)]

    def _one_a_row(self, target: NamedRow) -> Any:
        """The staged rows, with columns of several references unnested."""
        several = {c.name for c in self.table.columns if c.kind is ValueKind.LIST}
        if several.isdisjoint(target.columns.values()):
            return self.stage
        names = {name: self.column(name) for name in target.columns.values()}
        chosen = [(fn.unnest(c) if n in several else c).alias(n) for n, c in names.items()]
        return self.stage.select(self.column("line"), *chosen).alias("named")

    def values_of(self, column: str, most: int) -> list[Any]:
        """The distinct values of a column."""
        own = self.column(column)
        query = self.stage.select(own).where(own.is_null(False)).distinct().order_by(own).limit(most)
        return [value for (value,) in fetch_tuples(self._database, query)]

    def rows_with(self, *names: str) -> list[tuple[Any, ...]]:
        """The line and some columns of every row, for small tables."""
        chosen = [self.column(name) for name in names]
        return fetch_tuples(self._database, self.stage.select(SQL("line"), *chosen).order_by(SQL("line")))

    # ------------------------------------------------------------------ what would change

    def new_without(self) -> tuple[list[Column], list[int]]:
        """Columns missing from the folder that new rows require, and the lines of new rows."""
        present = {column.name for column in self.columns}
        lacking = [c for c in self.table.columns if c.required and c.name not in present]
        if not lacking:
            return [], []
        new = self.new().select(SQL("line")).order_by(SQL("line")).limit(MOST_TOLD)
        return lacking, [line for (line,) in fetch_tuples(self._database, new)]

    def count_new(self) -> int:
        """The number of rows whose key is not stored."""
        return int(fetch_value(self._database, self.new().select(fn.COUNT(SQL("*")))))

    def new(self) -> Any:
        """A query of the rows whose key is not stored."""
        kept = kept_query(self.table.name).alias("kept")
        target = NamedRow(self.table.name, {name: name for name in self.table.key})
        keys = [self.column(name) for name in self.table.key]
        return self.stage.select().where(~fn.EXISTS(matching(kept, target, keys)))

    def count_changed(self) -> int:
        """The number of rows with changed values."""
        return int(fetch_value(self._database, self.changed(fn.COUNT(SQL("*")))))

    def first_changed(self, most: int) -> list[tuple[int, tuple[Any, ...], tuple[Any, ...]]]:
        """Some changed rows: the line, the stored values, and the staged ones."""
        kept = kept_query(self.table.name).alias("kept")
        before = [getattr(kept.c, c.name) for c in self.columns]
        after = [self.column(c.name) for c in self.columns]
        query = self.changed(SQL('"t1"."line"'), *before, *after, kept=kept).order_by(SQL("1")).limit(most)
        many = len(self.columns)
        return [(row[0], row[1 : 1 + many], row[1 + many :]) for row in fetch_tuples(self._database, query)]

    def terms_touched(self) -> frozenset[str]:
        """The codes of the terms of new or changed rows, for a table by term."""
        term = self.column("term")
        queries = (self.new().select(term).distinct(), self.changed(term).distinct())
        return frozenset(code for query in queries for (code,) in fetch_tuples(self._database, query))

    def changed(self, *chosen: Any, kept: Any = None) -> Any:
        """A query of changed rows."""
        kept = kept if kept is not None else kept_query(self.table.name).alias("kept")
        same_key = all_equal((getattr(kept.c, name), self.column(name)) for name in self.table.key)
        query = self.stage.select(*chosen).join(kept, on=same_key)
        return query.where(self._differs(kept.c))

    def _differs(self, kept: Any) -> Any:
        others = [c.name for c in self.columns if c.name not in self.table.key]
        conditions = [Expression(getattr(kept, n), DISTINCT, self.column(n)) for n in others]
        found: Any = Value(False)
        for condition in conditions:
            found = found | condition
        return found

    def count_left_out(self) -> int:
        """The number of stored rows not in the folder; for tables by term, only of the folder's terms."""
        kept = kept_query(self.table.name).alias("kept")
        own = self.stage.alias("own")
        there = all_equal((getattr(own.c, name), getattr(kept.c, name)) for name in self.table.key)
        query = Select((kept,), (fn.COUNT(SQL("*")),)).where(~fn.EXISTS(own.select(SQL("1")).where(there)))
        if is_by_term(self.table):
            terms = self.stage.alias("terms")
            query = query.where(kept.c.term.in_(terms.select(terms.c.term)))
        return int(fetch_value(self._database, query))

    # ------------------------------------------------------------------ taking it over

    def merge(self) -> None:
        """Insert new rows and update changed ones."""
        if self.table.name in _IN_DOCUMENTS:
            _IN_DOCUMENTS[self.table.name][1](self._database, self.stage)
            return
        if self.table.name == "sections":
            self._give_pools()
        self._update()
        self._insert()

    def _resolved(self, columns: Iterable[Column]) -> tuple[Any, dict[Any, Any]]:
        """The staged rows with the ids of what they refer to.

        Args:
            columns: that count.
        """
        kept = KEPT[self.table.name]
        present = {c.name for c in columns}
        query = self.stage.select()
        chosen: dict[Any, Any] = {
            held: self.column(ours) for ours, held in kept.fields.items() if ours in present
        }
        for number, link in enumerate(kept.links):
            if not set(link.columns.values()) <= present:
                continue
            looked_up = link.lookup().alias(f"l{number}")
            match = all_equal((getattr(looked_up.c, t), self.column(o)) for t, o in link.columns.items())
            query = query.left_outer_join(looked_up, on=match)
            chosen[link.to] = looked_up.c.id
        return query, chosen

    def _key_fields(self) -> set[Any]:
        kept = KEPT[self.table.name]
        key = set(self.table.key)
        own = {held for ours, held in kept.fields.items() if ours in key}
        return own | {link.to for link in kept.links if set(link.columns.values()) <= key}

    def _update(self) -> None:
        kept = KEPT[self.table.name]
        query, chosen = self._resolved(self.columns)
        keys = self._key_fields()
        others = {held: value for held, value in chosen.items() if held not in keys}
        if not others:
            return
        names = {held: held.column_name for held in chosen}
        columns = [value.alias(names[held]) for held, value in chosen.items()]
        if kept.placed is not None:
            columns.append(self.column("place").alias("place"))
        rows = query.select(*columns).alias("rows")
        same = all_equal((held, getattr(rows.c, names[held])) for held in keys)
        differs: Any = Value(False)
        for held in others:
            differs = differs | Expression(held, DISTINCT, getattr(rows.c, names[held]))
        update = kept.model.update({held: getattr(rows.c, names[held]) for held in others})
        if kept.placed is None:
            write(self._database, update.from_(rows).where(same & differs))
            return
        owner, order = kept.placed
        ranked = _ranked(kept).alias("ranked")
        is_it = (ranked.c.owner == owner) & (ranked.c.order == order) & (ranked.c.place == rows.c.place)
        write(self._database, update.from_(rows, ranked).where(same & is_it & differs))

    def _insert(self) -> None:
        kept = KEPT[self.table.name]
        # Columns that the folder does not have are as if their cells were empty.
        query, chosen = self._resolved(self.table.columns)
        if kept.placed is None:
            own = kept.model.alias("there")
            there = all_equal((getattr(own, held.name), chosen[held]) for held in self._key_fields())
            is_new: Any = ~fn.EXISTS(own.select(SQL("1")).where(there))
            order: list[Any] = [SQL("line")]
        else:
            # Joined, not asked for row by row: the places of all rows are reckoned once.
            ranked = _ranked(kept).alias("ranked")
            place = self.column("place")
            there = (ranked.c.owner == chosen[kept.placed[0]]) & (ranked.c.place == place)
            query = query.left_outer_join(ranked, on=there)
            is_new = ranked.c.owner.is_null()
            order = [place, SQL("line")]
        new = query.select(*chosen.values(), *kept.at_first.values()).where(is_new)
        fields = [*chosen, *(kept.model._meta.columns[name] for name in kept.at_first)]
        write(self._database, kept.model.insert_from(new.order_by(*order), fields))

    def _give_pools(self) -> None:
        """Gives each new section a seat pool of its own or of the section it names, then sets the limits."""
        stage, pool = self.stage, m.SeatPool
        pools, terms = pools_of_sections().alias("pools"), terms_by_code().alias("terms")
        other = Table(self.stage_name).alias("other")
        own = stage.c.pool_id
        has_none = own.is_null()
        next_id = fn.nextval(fn.pg_get_serial_sequence("seat_pools", "id"))
        of_kept = (pools.c.term == stage.c.term) & (pools.c.name == stage.c.number)
        of_named = (pools.c.term == stage.c.term) & (pools.c.name == stage.c.seats_with)
        of_staged = (other.c.term == stage.c.term) & (other.c.number == stage.c.seats_with)
        is_own = stage.c.seats_with.is_null()
        new = (
            stage.select(own, terms.c.id, stage.c.seats)
            .join(terms, on=(terms.c.term == stage.c.term))
            .where(own.is_null(False) & ~fn.EXISTS(pool.select(SQL("1")).where(pool.id == own)))
        )
        for query in (
            stage.update({own: pools.c.id}).from_(pools).where(of_kept),
            stage.update({own: next_id}).where(has_none & is_own),
            pool.insert_from(new, [pool.id, pool.term, pool.seat_limit]),
            stage.update({own: other.c.pool_id}).from_(other).where(has_none & of_staged),
            stage.update({own: pools.c.id}).from_(pools).where(has_none & of_named),
            pool.update({pool.seat_limit: stage.c.seats})
            .from_(stage)
            .where((pool.id == own) & is_own & (pool.seat_limit != stage.c.seats)),
        ):
            write(self._database, query)

    def column(self, name: str) -> Any:
        """A column of the staged rows."""
        return getattr(self.stage.c, name)


DISTINCT = "IS DISTINCT FROM"
"""How to compare what may be empty."""


def _ranked(kept: Kept) -> Any:
    """The rows of a table with positions: owner, sort key, and position."""
    assert kept.placed is not None
    owner, order = kept.placed
    return kept.model.select(owner.alias("owner"), order.alias("order"), kept.place.alias("place"))


def names_kept(database: PooledPostgresqlDatabase, table: str, column: str, most: int) -> list[str]:
    """The distinct values of a column of the stored rows."""
    kept = kept_query(table).alias("kept")
    named = getattr(kept.c, column)
    query = Select((kept,), (named,)).where(named.is_null(False)).distinct().limit(most)
    return [str(value) for (value,) in fetch_tuples(database, query)]


def all_equal(pairs: Iterable[tuple[Any, Any]]) -> Any:
    """A condition that all pairs are equal."""
    found: Any = None
    for one, other in pairs:
        found = (one == other) if found is None else found & (one == other)
    return found


def matching(other: Any, target: NamedRow, ours: Sequence[Any]) -> Any:
    """The rows of another table that a row refers to.

    Args:
        ours: what it names them by, in the order of the target's columns.
    """
    pairs = zip((getattr(other.c, theirs) for theirs in target.columns), ours, strict=True)
    return Select((other,), (SQL("1"),)).where(all_equal(pairs))


def stream(database: PooledPostgresqlDatabase, name: str, term: str = "") -> Iterator[tuple[Any, ...]]:
    """Yields a table's stored rows by key, a value for each column; within a transaction, and in bounded
    memory.

    Args:
        term: code of the only term whose rows are wanted, of a table by term; "" for all.
    """
    table = BY_NAME[name]
    kept = kept_query(name).alias("kept")
    columns = [getattr(kept.c, column.name) for column in table.columns]
    order = [getattr(kept.c, key) for key in table.key]
    query = Select((kept,), columns).order_by(*order)
    if term:
        query = query.where((kept.c.code if name == "terms" else kept.c.term) == term)
    text, values = query.bind(database).sql()
    with database.connection().cursor(name=f"reading_{name}") as cursor:
        cursor.itersize = 5_000
        cursor.execute(text, values)
        yield from cursor
