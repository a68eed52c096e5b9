"""What a database's own catalog says of its tables: to compare two descriptions of them."""

from __future__ import annotations

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import connected

_COLUMNS = """
SELECT c.relname || '.' || a.attname,
       concat_ws(' ', format_type(a.atttypid, a.atttypmod), CASE WHEN a.attnotnull THEN 'not null' END,
                 CASE a.attidentity WHEN 'd' THEN 'identity' WHEN 'a' THEN 'always' END,
                 'default ' || pg_get_expr(d.adbin, d.adrelid))
FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
LEFT JOIN pg_attrdef d ON d.adrelid = c.oid AND d.adnum = a.attnum
WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' AND a.attnum > 0
    AND NOT a.attisdropped AND c.relname <> 'schema_migration'
"""

_CONSTRAINTS = """
SELECT r.relname || ' ' || c.conname, pg_get_constraintdef(c.oid)
FROM pg_constraint c JOIN pg_class r ON r.oid = c.conrelid
WHERE r.relnamespace = 'public'::regnamespace AND c.contype <> 't' AND r.relname <> 'schema_migration'
"""

_INDEXES = """
SELECT c.relname, pg_get_indexdef(c.oid) FROM pg_class c JOIN pg_index i ON i.indexrelid = c.oid
JOIN pg_class t ON t.oid = i.indrelid
WHERE c.relnamespace = 'public'::regnamespace AND t.relname <> 'schema_migration'
"""

_SETTINGS = """
SELECT relname, coalesce(array_to_string(reloptions, ', '), '') FROM pg_class
WHERE relnamespace = 'public'::regnamespace AND relkind = 'r' AND relname <> 'schema_migration'
"""

_TRIGGERS = """
SELECT c.relname || ' ' || t.tgname, pg_get_triggerdef(t.oid)
FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
WHERE NOT t.tgisinternal
"""

_FUNCTIONS = """
SELECT p.proname, pg_get_functiondef(p.oid) FROM pg_proc p
WHERE p.pronamespace = 'public'::regnamespace
"""

_ALL = {
    "columns": _COLUMNS,
    "constraints": _CONSTRAINTS,
    "indexes": _INDEXES,
    "settings": _SETTINGS,
    "triggers": _TRIGGERS,
    "functions": _FUNCTIONS,
}


def described(database: PooledPostgresqlDatabase) -> dict[str, dict[str, str]]:
    """By kind, what is there by name, each with its definition."""
    with connected(database):
        return {kind: dict(database.cursor().execute(sql).fetchall()) for kind, sql in _ALL.items()}
