"""The registry of problems: the code, the HTTP status (RFC 9110) and the title of each kind there is."""

from __future__ import annotations

from enum import Enum, unique


@unique
class ProblemKind(Enum):
    """A kind of answer other than the one hoped for. What to do about it is said where it is met.

    Attributes:
        code: stable name, as it stands in ``/problems/NAME`` (RFC 9457, type).
        status: the HTTP status that fits it.
        title: what is the matter, in a few words; facts of the case in braces.
    """

    def __init__(self, code: str, status: int, title: str) -> None:
        self.code = code
        self.status = status
        self.title = title

    SIGN_IN_FIRST = ("sign-in-first", 401, "You are not signed in")
    SIGN_IN_WRONG = ("sign-in-wrong", 401, "The name or the password is not right")
    CONSENT_NOT_YOURS = ("consent-not-yours", 403, "Not yours to lift: {what}")
    CSRF = ("csrf", 403, "The request does not come from this application")
    NOT_FOR_YOU = ("not-for-you", 403, "This is not open to you")
    PAYMENT_FORGED = ("payment-forged", 403, "The answer is not signed by the payment service")
    DRAFT_UNKNOWN = ("draft-unknown", 404, "No such timetable of yours")
    FEE_HOLD_UNKNOWN = ("fee-hold-unknown", 404, "No such fee hold")
    ENTRY_UNKNOWN = ("entry-unknown", 404, "No such entry of this student")
    HOLD_UNKNOWN = ("hold-unknown", 404, "No such hold of yours")
    LINK_GONE = ("link-gone", 404, "This link does not lead anywhere any more")
    LINK_UNKNOWN = ("link-unknown", 404, "No such link")
    NO_DEMO = ("no-demo", 404, "This is not the demo")
    NOT_FOUND = ("not-found", 404, "There is nothing at this address")
    NOT_IN_TERM = ("not-in-term", 404, "You are not expected in this term")
    PAYMENT_UNKNOWN = ("payment-unknown", 404, "No such payment")
    RECEIPT_UNKNOWN = ("receipt-unknown", 404, "No such receipt")
    SECTION_NOT_YOURS = ("section-not-yours", 404, "No such section of yours")
    SECTION_UNKNOWN = ("section-unknown", 404, "{term} has no section {number}")
    STUDENT_MISSING = ("student-missing", 404, "Whose?")
    STUDENT_NOT_YOURS = ("student-not-yours", 404, "No such student of yours")
    STUDENT_UNKNOWN = ("student-unknown", 404, "No such student")
    TERM_UNKNOWN = ("term-unknown", 404, "No such term")
    WAITLIST_ENTRY_UNKNOWN = ("waitlist-entry-unknown", 404, "No such place of yours")
    METHOD = ("method", 405, "This address does not take that")
    CART_MOVED = ("cart-moved", 409, "The cart has changed meanwhile")
    CONSENT_QUOTA = ("consent-quota", 409, "Too many codes of this section are open")
    CONSENT_USED = ("consent-used", 409, "That code cannot be taken back")
    ASKING_BACK = ("asking-back", 409, "These sections cannot be asked back")
    CUT_NOT_YET = ("cut-not-yet", 409, "This date has not come")
    ENTRY_UNDONE = ("entry-undone", 409, "This entry cannot be undone")
    HOLD_LIFTED = ("hold-lifted", 409, "The hold has been lifted already")
    HOLD_UNPAYABLE = ("hold-unpayable", 409, "This hold cannot be lifted by paying")
    PAYMENT_ELSEWHERE = ("payment-elsewhere", 409, "Paying is not possible on this page")
    PAYMENTS_WAITING = ("payments-waiting", 409, "Several payments have had no answer yet")
    PLAN_JOINED = ("plan-joined", 409, "This plan cannot be joined")
    PLAN_MOVED = ("plan-moved", 409, "The plan is another one now")
    RECORDS_MOVED = ("records-moved", 409, "Something changed while this was put through")
    TERM_OVER = ("term-over", 409, "{term} is over")
    TIMETABLE_GONE = ("timetable-gone", 409, "This timetable does not work any more")
    TOO_MANY_DRAFTS = ("too-many-drafts", 409, "You keep {most} timetables already")
    TOO_MANY_LINKS = ("too-many-links", 409, "There are too many links")
    WAITLIST_ENTRY_MOVED = ("waitlist-entry-moved", 409, "This has changed meanwhile")
    TOO_LARGE = ("too-large", 413, "That is too much at once")
    QUERY_TOO_LONG = ("query-too-long", 414, "That is too much to look for")
    NOT_JSON = ("not-json", 415, "What was sent is not JSON")
    WRONG_HOST = ("wrong-host", 421, "This server goes by another name")
    CARD_MISTYPED = ("card-mistyped", 422, "That card number has a slip in it")
    CARD_UNKNOWN = ("card-unknown", 422, "This demo takes only its own test cards")
    CHOICE_UNKNOWN = ("choice-unknown", 422, "{term} has no section {number}")
    CLOCK_RANGE = ("clock-range", 422, "The clock cannot be moved there")
    CONSENT_EXPIRED = ("consent-expired", 422, "A code cannot end then")
    DETAILS_MISSING = ("details-missing", 422, "Something is missing")
    HELD_ALREADY = ("held-already", 422, "You are registered for {name} already")
    KEY_USED = ("key-used", 422, "This key was used for other changes")
    DAY_FILE = ("day-file", 422, "Nothing was taken over: some lines are not right")
    LIMIT_RANGE = ("limit-range", 422, "That limit is out of range")
    PAYMENT_OLD = ("payment-old", 422, "The answer is too old")
    PAYMENT_UNREADABLE = ("payment-unreadable", 422, "The answer cannot be read")
    REASON_MISSING = ("reason-missing", 422, "Why?")
    STUDENT_NAME_UNKNOWN = ("student-name-unknown", 422, "No such student")
    SUM_RANGE = ("sum-range", 422, "That sum cannot be taken")
    SURVEY_OPEN = ("survey-open", 422, "A question is not answered yet")
    TEXT_TOO_LONG = ("text-too-long", 422, "That is too long to be read at once")
    TOO_MANY_CHANGES = ("too-many-changes", 422, "At most {most} changes at a time")
    TOO_MANY_PLANS = ("too-many-plans", 422, "A cart holds at most {most} plans")
    TOO_MANY_CHOICES = ("too-many-choices", 422, "A change has at most {most} next choices")
    MALFORMED = ("malformed", 400, "The request could not be read")
    REFUSED = ("refused", 400, "The request was refused")
    UNREADABLE = ("unreadable", 422, "The request could not be read")
    UNSTORABLE = ("unstorable", 422, "There is a sign in it that cannot be kept")
    WEEK_TOO_LONG = ("week-too-long", 422, "That is no week")
    CONSENT_LIMITED = ("consent-limited", 429, "Too many codes that do not exist")
    REPORTS_LIMITED = ("reports-limited", 429, "That is known by now")
    SIGN_IN_LIMITED = ("sign-in-limited", 429, "Too many attempts with this name from here")
    SUBMISSIONS_LIMITED = ("submissions-limited", 429, "That is very much within a minute")
    TOO_MANY_REQUESTS = ("too-many-requests", 429, "Too many requests at once from here")
    TOO_MANY_STREAMS = ("too-many-streams", 429, "Too many pages are open at once")
    TOO_MANY_YOURS = ("too-many-yours", 429, "You have several sendings on their way already")
    NOT_ANSWERED = ("not-answered", 500, "This could not be worked out")
    NOT_PUT_THROUGH = ("not-put-through", 500, "This could not be put through")
    UNFORESEEN = ("unforeseen", 500, "Something went wrong on our side")
    RECORDS_AWAY = ("records-away", 503, "The records cannot be reached right now")
    FITS_BUSY = ("fits-busy", 503, "Very many are looking for timetables at this moment")
    SIGN_IN_BUSY = ("sign-in-busy", 503, "Very many are signing in at this moment")
    TOO_MANY = ("too-many", 503, "Too many are registering at this moment")
