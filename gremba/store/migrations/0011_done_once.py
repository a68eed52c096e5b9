"""What offices post carries a key, by which it is done once however often it is sent."""

STATEMENTS = """
CREATE TABLE done_once (
    person_id INTEGER NOT NULL,
    key TEXT NOT NULL CHECK (length(key) BETWEEN 8 AND 80),
    what TEXT NOT NULL,
    at TIMESTAMPTZ NOT NULL,
    PRIMARY KEY (person_id, key),
    FOREIGN KEY (person_id) REFERENCES persons (id)
);
"""


def up(migrator, database):
    database.cursor().execute(STATEMENTS)
