"""States and kinds stored in the database, with the same values in the core, the tables and their checks."""

from __future__ import annotations

from enum import StrEnum


class ClearanceKind(StrEnum):
    """What everybody has to have done before registering for a term."""

    AGREEMENT = "agreement"
    DETAILS = "details"
    SURVEY = "survey"
    ORIENTATION = "orientation"
    RELEASE = "release"


class Component(StrEnum):
    """What kind of class a section is."""

    LECTURE = "lecture"
    SEMINAR = "seminar"
    LAB = "lab"
    DISCUSSION = "discussion"
    STUDIO = "studio"
    FIELD = "field"


class Delivery(StrEnum):
    """How a section is taught."""

    IN_PERSON = "in person"
    LIVE_ONLINE = "live online"
    ONLINE_ANY_TIME = "online any time"
    MIXED = "mixed"


class RepeatPolicy(StrEnum):
    """What becomes of a course that is taken again."""

    NEVER_AFTER_A_PASS = "never after a pass"
    BEST_COUNTS = "best counts"
    LAST_COUNTS = "last counts"
    FOR_CREDIT = "for credit"


class WaitlistWay(StrEnum):
    """How a seat goes to the head of a waitlist: offered for a while, or given at once."""

    OFFER = "offer"
    AUTOMATIC = "automatic"


class ReservedFor(StrEnum):
    """By what it is said for whom seats are reserved."""

    COHORT = "cohort"
    PROGRAM = "program"
    CAMPUS = "campus"
    RESIDENCE = "residence"


class AssignedTo(StrEnum):
    """By what a group is named that chooses before the others."""

    COHORT = "cohort"
    PROGRAM = "program"


class Role(StrEnum):
    """What somebody is at the college."""

    STUDENT = "student"
    ADVISOR = "advisor"
    INSTRUCTOR = "instructor"
    REGISTRAR = "registrar"
    CASHIER = "cashier"


class TermState(StrEnum):
    """How far a term is."""

    PREPARED = "in preparation"
    """Only the registrar sees it."""
    OPEN = "open"
    CLOSED = "closed"
    """Nothing can be changed any more, whatever its days say."""


class ClearedBy(StrEnum):
    """Who can lift a hold."""

    STUDENT = "student"
    OFFICE = "office"


class Stopped(StrEnum):
    """What a hold stops."""

    ADD = "add"
    WAIT = "wait"
    SWAP = "swap"
    DROP = "drop"


class Waiver(StrEnum):
    """What a permission code or a grant may lift. Conflict and hold only where it says so."""

    CONSENT = "consent"
    SEATS = "seats"
    REQUISITE = "requisite"
    RESTRICTION = "restriction"
    LATE_ADD = "late add"
    REPEAT = "repeat"
    CREDITS = "credits"
    CONFLICT = "conflict"
    HOLD = "hold"


class RegistrationState(StrEnum):
    """What has become of a registration."""

    REGISTERED = "registered"
    DROPPED = "dropped"
    WITHDRAWN = "withdrawn"


class RegistrationEventKind(StrEnum):
    """What can happen to a registration after it was made."""

    DROPPED = "dropped"
    WITHDRAWN = "withdrawn"
    ADJUSTED = "adjusted"


class WaitlistState(StrEnum):
    """What has become of a waitlist entry; the first two are open."""

    WAITING = "waiting"
    OFFERED = "offered"
    GIVEN = "given"
    LEFT = "left"
    DECLINED = "declined"
    LAPSED = "lapsed"
    CLOSED = "closed"

    @property
    def is_open(self) -> bool:
        """Whether it still stands in the waitlist, or a seat is held for it."""
        return self in (WaitlistState.WAITING, WaitlistState.OFFERED)


class WaitlistEventKind(StrEnum):
    """What can happen to a waitlist entry."""

    JOINED = "joined"
    OFFERED = "offered"
    ACCEPTED = "accepted"
    REGISTERED = "registered"
    DECLINED = "declined"
    LAPSED = "lapsed"
    PASSED_OVER = "passed over"
    MOVED = "moved"
    LEFT = "left"
    CLOSED = "closed"
    LOOSENED = "loosened"


class Blocked(StrEnum):
    """Why an entry is not looked at until something changes: only seats reserved for others are left,
    or the decision stops its student."""

    RESERVED = "reserved"
    STOPPED = "stopped"


class PermissionState(StrEnum):
    """What has become of a request to somebody; the first two are open."""

    OPEN = "open"
    ASKED_BACK = "asked back"
    GRANTED = "granted"
    REFUSED = "refused"
    TAKEN_BACK = "taken back"
    WITHDRAWN = "withdrawn"
    CLOSED = "closed"

    @property
    def is_open(self) -> bool:
        """Whether somebody has still to say something."""
        return self in (PermissionState.OPEN, PermissionState.ASKED_BACK)


class FileType(StrEnum):
    """What may be attached to a request, by its media type."""

    PDF = "application/pdf"
    PNG = "image/png"
    JPEG = "image/jpeg"


class PermissionEventKind(StrEnum):
    """What can happen to a request."""

    ASKED = "asked"
    ASKED_BACK = "asked back"
    ANSWERED = "answered"
    PASSED_ON = "passed on"
    GRANTED = "granted"
    REFUSED = "refused"
    TAKEN_BACK = "taken back"
    WITHDRAWN = "withdrawn"
    REMINDED = "reminded"
    STUCK = "stuck"
    PUT_THROUGH = "put through"
    CLOSED = "closed"


class PaymentState(StrEnum):
    """What has become of a payment."""

    WAITING = "waiting"
    APPROVED = "approved"
    DECLINED = "declined"
    RETURNED = "returned"


class WeekLinkKind(StrEnum):
    """What a link to a week is for: a calendar that reads it again and again, or showing it."""

    CALENDAR = "calendar"
    SHARE = "share"


class SignInResult(StrEnum):
    """What came of an attempt to sign in; open while it is being verified."""

    OPEN = "open"
    RIGHT = "right"
    WRONG = "wrong"
    PUT_OFF = "put off"


class AuditKind(StrEnum):
    """What is noted about access."""

    SIGNED_IN = "signed in"
    SIGN_IN_FAILED = "sign-in failed"
    SIGN_IN_PUT_OFF = "sign-in put off"
    SIGNED_OUT = "signed out"
    REFUSED = "refused"
    LIMIT_MET = "limit met"
    PAYMENT_FORGED = "payment forged"
    ACTED_FOR = "acted for"
    OFFICE_ACT = "office act"
    PAGE_FAILED = "page failed"
