"""Tables, columns and kinds of messages take the words of the trade."""

STATEMENTS = """
DROP TRIGGER IF EXISTS note_freed ON seat_pools;
DROP FUNCTION IF EXISTS note_vacancies();
ALTER TABLE deputies RENAME TO delegates;
ALTER TABLE delegates RENAME COLUMN deputy_id TO delegate_id;
ALTER TABLE study_plans RENAME TO academic_plans;
ALTER TABLE window_dealings RENAME TO window_assignments;
ALTER TABLE window_assignments RENAME COLUMN dealt TO assigned;
ALTER TABLE windows RENAME COLUMN dealing_id TO assignment_id;
ALTER TABLE vacancies RENAME TO freed_seats;
ALTER TABLE fits_drafts RENAME TO timetable_drafts;
UPDATE terms SET policy = jsonb_set(
    policy #- '{account,instalments}', '{account,installments}', policy #> '{account,instalments}'
)
WHERE policy #> '{account,instalments}' IS NOT NULL;
"""

WORDS = {
    "deputies": "delegates",
    "deputy": "delegate",
    "study_plan": "academic_plan",
    "dealings": "assignments",
    "dealing": "assignment",
    "vacancies": "freed_seats",
    "fits_drafts": "timetable_drafts",
    "fitsdraft": "timetabledraft",
}
"""In names of indexes, constraints and sequences."""

NAMED = """
SELECT 'ALTER INDEX ' || quote_ident(c.relname) || ' RENAME TO ', c.relname
FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'i'
UNION ALL
SELECT 'ALTER SEQUENCE ' || quote_ident(c.relname) || ' RENAME TO ', c.relname
FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'S'
UNION ALL
SELECT
    'ALTER TABLE ' || conrelid::regclass || ' RENAME CONSTRAINT ' || quote_ident(conname) || ' TO ', conname
FROM pg_constraint WHERE connamespace = 'public'::regnamespace AND contype IN ('c', 'f')
"""

KINDS = {"ring closed": "seats traded", "instalment missed": "installment missed"}

KINDS_CHECK = """
SELECT conname, pg_get_constraintdef(oid) FROM pg_constraint
WHERE conrelid = 'messages'::regclass AND contype = 'c' AND pg_get_constraintdef(oid) LIKE '%ring closed%'
"""


def up(migrator, database):
    cursor = database.cursor()
    cursor.execute(STATEMENTS)
    cursor.execute(NAMED)
    for command, name in cursor.fetchall():
        new = name
        for old, word in WORDS.items():
            new = new.replace(old, word)
        if new != name:
            cursor.execute(f'{command}"{new}"')
    cursor.execute(KINDS_CHECK)
    for name, definition in cursor.fetchall():
        cursor.execute(f'ALTER TABLE messages DROP CONSTRAINT "{name}"')
        for old, kind in KINDS.items():
            cursor.execute("UPDATE messages SET kind = %s WHERE kind = %s", (kind, old))
            definition = definition.replace(f"'{old}'", f"'{kind}'")
        cursor.execute(f'ALTER TABLE messages ADD CONSTRAINT "{name}" {definition}')
