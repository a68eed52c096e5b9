"""Messages about sections that have moved, or take place no more."""

STATEMENTS = """
ALTER TABLE messages DROP CONSTRAINT messages_kind_check, ADD CONSTRAINT messages_kind_check CHECK (kind IN (
    'offered', 'registered', 'ring closed', 'passed over', 'lapsed', 'closed', 'cancelled', 'left',
    'loosened', 'due soon', 'seats lost', 'instalment missed', 'paid', 'request passed on',
    'request question', 'request granted', 'request refused', 'request closed', 'request stuck',
    'request through', 'let in', 'grant taken back', 'request came', 'request answered', 'request waits',
    'week sent', 'section moved', 'section off'));
"""


def up(migrator, database):
    # Without parameters, so that a percent sign is one.
    database.cursor().execute(STATEMENTS)
