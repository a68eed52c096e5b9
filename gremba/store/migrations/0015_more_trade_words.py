"""The rest of the tables, columns and stored keys take the words of the trade."""

KEYS = """
UPDATE messages SET facts = facts - 'receipt' || jsonb_build_object('confirmation', facts -> 'receipt')
WHERE facts ? 'receipt';
UPDATE terms SET policy = policy - 'consent_days'
    || jsonb_build_object('permission_code_days', policy -> 'consent_days')
WHERE policy ? 'consent_days';
UPDATE terms SET policy = policy - 'most_open_consents'
    || jsonb_build_object('most_open_permission_codes', policy -> 'most_open_consents')
WHERE policy ? 'most_open_consents';
UPDATE terms SET policy = jsonb_set(
    policy #- '{account,promises_count}', '{account,anticipated_payments_count}',
    policy #> '{account,promises_count}'
)
WHERE policy #> '{account,promises_count}' IS NOT NULL;
UPDATE timetable_drafts SET question = jsonb_set(question, '{wants}', (
    SELECT coalesce(jsonb_agg(
        CASE WHEN want ? 'blocks'
            THEN want - 'blocks' || jsonb_build_object('sessions', want -> 'blocks')
            ELSE want END
        ORDER BY place
    ), '[]')
    FROM jsonb_array_elements(question -> 'wants') WITH ORDINALITY AS wants (want, place)
))
WHERE question ? 'wants';
"""

TRIGGERS = (
    ("keep_receipts", "receipts"),
    ("keep_receipts_whole", "receipts"),
    ("keep_cut_results", "cut_results"),
    ("keep_consent_uses", "consent_uses"),
    ("tell_new_reserved_blocks", "reserved_blocks"),
    ("tell_reserved_blocks", "reserved_blocks"),
)
"""Those whose names held the older words; they are made again by the names they have now."""

TABLES = {
    "blocks": "term_sessions",
    "companions": "linked_sections",
    "consent_codes": "permission_codes",
    "consent_guesses": "permission_code_guesses",
    "consent_uses": "permission_code_uses",
    "cut_results": "nonpayment_results",
    "cuts": "nonpayment_drops",
    "promises": "anticipated_payments",
    "receipts": "confirmations",
    "reserved_blocks": "reserved_seats",
}

COLUMNS = {
    "block_id": "session_id",
    "chosen_companions": "chosen_linked_sections",
    "consent": "permission_code",
    "consent_id": "permission_code_id",
    "cut_id": "nonpayment_drop_id",
    "promise_id": "anticipated_payment_id",
    "promised_at": "noted_at",
    "promised_by": "noted_by",
    "receipt_id": "confirmation_id",
    "reserved_block_id": "reserved_seats_id",
}

WORDS = {
    "reservedblock": "reservedseats",
    "reserved_blocks": "reserved_seats",
    "reserved_block": "reserved_seats",
    "consentcode": "permissioncode",
    "consent_codes": "permission_codes",
    "consent_guesses": "permission_code_guesses",
    "consent_uses": "permission_code_uses",
    "consent_id": "permission_code_id",
    "companions": "linked_sections",
    "cut_results": "nonpayment_results",
    "cut_id": "nonpayment_drop_id",
    "cuts": "nonpayment_drops",
    "promises": "anticipated_payments",
    "promise_id": "anticipated_payment_id",
    "promised_by": "noted_by",
    "receipts": "confirmations",
    "receipt": "confirmation",
    "blocks": "term_sessions",
    "block_id": "session_id",
}
"""In names of indexes, constraints and sequences, longer ones first."""

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

HELD = """
SELECT table_name, column_name FROM information_schema.columns
WHERE table_schema = 'public' AND column_name = ANY(%s)
"""


def up(migrator, database):
    cursor = database.cursor()
    cursor.execute(KEYS)
    for trigger, table in TRIGGERS:
        cursor.execute(f"DROP TRIGGER IF EXISTS {trigger} ON {table}")
    for old, new in TABLES.items():
        cursor.execute(f"ALTER TABLE {old} RENAME TO {new}")
    cursor.execute(HELD, (list(COLUMNS),))
    for table, column in cursor.fetchall():
        cursor.execute(f"ALTER TABLE {table} RENAME COLUMN {column} TO {COLUMNS[column]}")
    cursor.execute(NAMED)
    for command, name in cursor.fetchall():
        new = name
        for old, word in WORDS.items():
            new = new.replace(old, word)
        if new != name:
            cursor.execute(f'{command}"{new}"')
