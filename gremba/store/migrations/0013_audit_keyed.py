"""The record is written by functions of the owner alone, with digests by a key that the role that serves
cannot read; its end and what has gone by age are noted beside it."""

STATEMENTS = """
ALTER TABLE audit_entries ADD COLUMN is_keyed BOOLEAN NOT NULL DEFAULT false;
CREATE TABLE audit_key (
    is_only BOOLEAN PRIMARY KEY DEFAULT true CHECK (is_only),
    key BYTEA NOT NULL CHECK (length(key) = 32)
);
CREATE TABLE audit_head (
    is_only BOOLEAN PRIMARY KEY DEFAULT true CHECK (is_only),
    last_id BIGINT NOT NULL,
    last_digest BYTEA NOT NULL CHECK (length(last_digest) = 32),
    aged_out_digest BYTEA NOT NULL CHECK (length(aged_out_digest) = 32),
    seal BYTEA
);
CREATE TABLE audit_anchors (
    day DATE PRIMARY KEY,
    last_id BIGINT NOT NULL,
    digest BYTEA NOT NULL CHECK (length(digest) = 32),
    tried_at TIMESTAMPTZ,
    sent_at TIMESTAMPTZ
);
INSERT INTO audit_key (key)
VALUES (sha256((gen_random_uuid()::text || gen_random_uuid() || gen_random_uuid())::bytea));
INSERT INTO audit_head (last_id, last_digest, aged_out_digest)
SELECT
    coalesce((SELECT max(id) FROM audit_entries), 0),
    coalesce((SELECT digest FROM audit_entries WHERE digest IS NOT NULL ORDER BY id DESC LIMIT 1),
             decode(repeat('00', 32), 'hex')),
    coalesce((SELECT digest_before FROM audit_entries WHERE digest IS NOT NULL ORDER BY id LIMIT 1),
             decode(repeat('00', 32), 'hex'));
"""


def up(migrator, database):
    database.cursor().execute(STATEMENTS)
