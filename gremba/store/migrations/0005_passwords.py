"""Links by which people set their password."""

STATEMENTS = """
CREATE TABLE password_links (
    token_digest BYTEA NOT NULL PRIMARY KEY,
    person_id INTEGER NOT NULL,
    made_at TIMESTAMPTZ NOT NULL,
    ends_at TIMESTAMPTZ NOT NULL,
    used_at TIMESTAMPTZ,
    FOREIGN KEY (person_id) REFERENCES persons (id),
    CHECK (made_at < ends_at)
);
CREATE INDEX password_links_of_person ON password_links (person_id);
"""


def up(migrator, database):
    # Without parameters, so that a percent sign is one.
    database.cursor().execute(STATEMENTS)
