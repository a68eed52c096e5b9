"""What deciders are told of one matter is put together: their latest messages are looked for."""

STATEMENTS = """
CREATE INDEX messages_of_person ON messages (person_id, id) WHERE person_id IS NOT NULL;
"""


def up(migrator, database):
    database.cursor().execute(STATEMENTS)
