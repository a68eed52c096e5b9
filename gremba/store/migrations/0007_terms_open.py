"""Terms in preparation, open and closed. Those that there were before were open."""

STATEMENTS = """
ALTER TABLE terms ADD COLUMN state TEXT NOT NULL DEFAULT 'open'
    CHECK (state IN ('in preparation', 'open', 'closed'));
ALTER TABLE terms ALTER COLUMN state SET DEFAULT 'in preparation';
"""


def up(migrator, database):
    # Without parameters, so that a percent sign is one.
    database.cursor().execute(STATEMENTS)
