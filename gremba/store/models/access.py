"""Sessions, sign-ins and the audit log, kept for a set time."""

from __future__ import annotations

from peewee import BigIntegerField, BooleanField, CompositeKey, DateField, TextField
from playhouse.postgres_ext import BlobField

from gremba.core.states import AuditKind, SignInResult
from gremba.store.models.base import (
    BigCounted,
    BigIdentity,
    Choice,
    Moment,
    Reference,
    Table,
    check,
    default,
    index,
)
from gremba.store.models.people import Person, Student


class Session(Table):
    """A signed-in session, until it is signed out or expires."""

    token_digest = BlobField(primary_key=True, help_text="of the token in the browser")
    person = Reference(Person)
    csrf_token = TextField()
    created_at = Moment()
    expires_at = Moment()
    ended_at = Moment(null=True)
    id = BigCounted()
    seen_at = Moment(constraints=[default("now()")])
    browser = TextField(constraints=[default("''")])

    class Meta:
        table_name = "sessions"


index(Session, "sessions_of_person", Session.person)
index(Session, "sessions_over", Session.expires_at)


class PasswordLink(Table):
    """A one-time link for setting a password."""

    token_digest = BlobField(primary_key=True, help_text="of the link's token")
    person = Reference(Person)
    made_at = Moment()
    ends_at = Moment()
    used_at = Moment(null=True, help_text="when it was used or replaced")

    class Meta:
        table_name = "password_links"
        constraints = [check("made_at < ends_at")]


index(PasswordLink, "password_links_of_person", PasswordLink.person)


class KnownBrowser(Table):
    """A browser with which a person has signed in before; other people's failed attempts do not slow it
    down."""

    token_digest = BlobField()
    person = Reference(Person)
    seen_at = Moment()

    class Meta:
        table_name = "known_browsers"
        primary_key = CompositeKey("token_digest", "person")


index(KnownBrowser, "known_browsers_seen", KnownBrowser.seen_at)


class SignIn(Table):
    """An attempt to sign in, recorded before it is verified."""

    id = BigIdentity()
    account = TextField()
    origin = TextField()
    at = Moment()
    result = Choice(SignInResult)

    class Meta:
        table_name = "sign_ins"


index(SignIn, "sign_ins_of_account", SignIn.account, SignIn.at)
index(SignIn, "sign_ins_of_origin", SignIn.origin, SignIn.at)
index(SignIn, "sign_ins_by_age", SignIn.at)


class DoneOnce(Table):
    """An office's action with its key; repeating it does nothing."""

    person = Reference(Person)
    key = TextField(constraints=[check("length(key) BETWEEN 8 AND 80")])
    what = TextField(help_text="the action, with a digest of the request")
    at = Moment()

    class Meta:
        table_name = "done_once"
        primary_key = CompositeKey("person", "key")


class AuditEntry(Table):
    """What was done, by whom, and from where. Append-only; deleted by age."""

    id = BigIdentity()
    at = Moment()
    kind = Choice(AuditKind)
    person = Reference(Person, null=True)
    account = TextField(constraints=[default("''")], help_text="the account named, if nobody is signed in")
    student = Reference(Student, null=True, help_text="the student it is about, if another person")
    address = TextField(constraints=[default("''")])
    request_id = TextField(constraints=[default("''")], help_text="the request id of the response")
    detail = TextField(constraints=[default("''")])
    digest_before = BlobField(
        null=True,
        constraints=[check("length(digest_before) = 32")],
        help_text="the digest of the previous entry, see core/access/audit_log.py; none before the chain",
    )
    digest = BlobField(null=True, constraints=[check("length(digest) = 32")], help_text="its own digest")
    is_keyed = BooleanField(
        constraints=[default("false")],
        help_text="whether its digest is made with the key",
    )

    class Meta:
        table_name = "audit_entries"
        constraints = [check("(digest IS NULL) = (digest_before IS NULL)")]


class AuditKey(Table):
    """The key of the audit log's digests. The serving role cannot read it."""

    is_only = BooleanField(primary_key=True, constraints=[default("true"), check("is_only")])
    key = BlobField(constraints=[check("length(key) = 32")])

    class Meta:
        table_name = "audit_key"


class AuditHead(Table):
    """The end of the audit log, and the end of what was deleted by age."""

    is_only = BooleanField(primary_key=True, constraints=[default("true"), check("is_only")])
    last_id = BigIntegerField()
    last_digest = BlobField(constraints=[check("length(last_digest) = 32")])
    aged_out_digest = BlobField(
        constraints=[check("length(aged_out_digest) = 32")],
        help_text="of the last entry deleted by age",
    )
    seal = BlobField(null=True, help_text="a digest of the other columns, made with the key")

    class Meta:
        table_name = "audit_head"


class AuditAnchor(Table):
    """The last digest of each day, and when it was sent elsewhere."""

    day = DateField(primary_key=True)
    last_id = BigIntegerField()
    digest = BlobField(constraints=[check("length(digest) = 32")])
    tried_at = Moment(null=True)
    sent_at = Moment(null=True)

    class Meta:
        table_name = "audit_anchors"


index(AuditEntry, "audit_entries_by_age", AuditEntry.at)
index(AuditEntry, "audit_entries_of_person", AuditEntry.person, AuditEntry.at)
index(
    AuditEntry,
    "audit_entries_of_student",
    AuditEntry.student,
    AuditEntry.at,
    where="student_id IS NOT NULL",
)
