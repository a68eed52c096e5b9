"""States and kinds stored in the database, with the same values in the core, the tables and their checks."""

from __future__ import annotations

from enum import StrEnum


class ClearanceKind(StrEnum):
    """The items of the registration checklist."""

    AGREEMENT = "agreement"
    DETAILS = "details"
    SURVEY = "survey"
    ORIENTATION = "orientation"
    RELEASE = "release"


class Component(StrEnum):
    """The kind of class."""

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
    """What repeating a course counts."""

    NEVER_AFTER_A_PASS = "never after a pass"
    BEST_COUNTS = "best counts"
    LAST_COUNTS = "last counts"
    FOR_CREDIT = "for credit"


class WaitlistWay(StrEnum):
    """How a waitlist gives a seat: offered for a time, or registered automatically."""

    OFFER = "offer"
    AUTOMATIC = "automatic"


class ReservedFor(StrEnum):
    """The kind of group that seats are reserved for."""

    COHORT = "cohort"
    PROGRAM = "program"
    CAMPUS = "campus"
    RESIDENCE = "residence"


class AssignedTo(StrEnum):
    """The kind of a priority group for windows."""

    COHORT = "cohort"
    PROGRAM = "program"


class Role(StrEnum):
    """A person's role at the college."""

    STUDENT = "student"
    ADVISOR = "advisor"
    INSTRUCTOR = "instructor"
    REGISTRAR = "registrar"
    CASHIER = "cashier"


class TermState(StrEnum):
    """The state of a term."""

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
    """What a hold blocks."""

    ADD = "add"
    WAIT = "wait"
    SWAP = "swap"
    DROP = "drop"


class Waiver(StrEnum):
    """What a permission code or approval can override. Conflict and hold only if it says so."""

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
    """The state of a registration."""

    REGISTERED = "registered"
    DROPPED = "dropped"
    WITHDRAWN = "withdrawn"


class RegistrationEventKind(StrEnum):
    """What can happen to a registration after it was made."""

    DROPPED = "dropped"
    WITHDRAWN = "withdrawn"
    ADJUSTED = "adjusted"


class WaitlistState(StrEnum):
    """The state of a waitlist entry; the first two are open."""

    WAITING = "waiting"
    OFFERED = "offered"
    GIVEN = "given"
    LEFT = "left"
    DECLINED = "declined"
    LAPSED = "lapsed"
    CLOSED = "closed"

    @property
    def is_open(self) -> bool:
        """Whether it still waits or has an offer."""
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
    """Why an entry is skipped until something changes: only reserved seats are left, or a rule blocks its
    student."""

    RESERVED = "reserved"
    STOPPED = "stopped"


class PermissionState(StrEnum):
    """The state of a request; the first two are open."""

    OPEN = "open"
    ASKED_BACK = "asked back"
    GRANTED = "granted"
    REFUSED = "refused"
    TAKEN_BACK = "taken back"
    WITHDRAWN = "withdrawn"
    CLOSED = "closed"

    @property
    def is_open(self) -> bool:
        """Whether it is still to be decided."""
        return self in (PermissionState.OPEN, PermissionState.ASKED_BACK)


class FileType(StrEnum):
    """The media types of attachments."""

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
    """The state of a payment."""

    WAITING = "waiting"
    APPROVED = "approved"
    DECLINED = "declined"
    RETURNED = "returned"


class WeekLinkKind(StrEnum):
    """What a schedule link is for: a calendar subscription, or sharing."""

    CALENDAR = "calendar"
    SHARE = "share"


class SignInResult(StrEnum):
    """The result of an attempt to sign in; open while it is verified."""

    OPEN = "open"
    RIGHT = "right"
    WRONG = "wrong"
    PUT_OFF = "put off"


class AuditKind(StrEnum):
    """What is recorded about access."""

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
