"""Each entry of the record carries the digest of the one before."""

STATEMENTS = """
ALTER TABLE audit_entries
    ADD COLUMN digest_before BYTEA CHECK (length(digest_before) = 32),
    ADD COLUMN digest BYTEA CHECK (length(digest) = 32),
    ADD CHECK ((digest IS NULL) = (digest_before IS NULL));
CREATE INDEX audit_entries_of_student ON audit_entries (student_id, at) WHERE student_id IS NOT NULL;
"""


def up(migrator, database):
    # Without parameters, so that a percent sign is one.
    database.cursor().execute(STATEMENTS)
