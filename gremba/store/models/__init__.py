"""The tables, one file per area."""

from __future__ import annotations

from gremba.store.models.access import (
    AuditAnchor,
    AuditEntry,
    AuditHead,
    AuditKey,
    DoneOnce,
    KnownBrowser,
    PasswordLink,
    Session,
    SignIn,
)
from gremba.store.models.account import (
    AnticipatedPayment,
    DueWarning,
    JoinedPlan,
    LedgerEntry,
    NonpaymentDrop,
    NonpaymentResultLine,
    Payment,
    SeatNote,
)
from gremba.store.models.base import Table
from gremba.store.models.catalogue import Campus, Course, Subject, Term, TermBreak, TermSession, Travel
from gremba.store.models.clearance import (
    ClearanceItem,
    ContactDetails,
    Hold,
    StudentTerm,
    SurveyAnswers,
    Window,
    WindowAssignment,
)
from gremba.store.models.installation import CampusClock, Installation
from gremba.store.models.people import (
    OfficeEvent,
    Person,
    PlacementScore,
    RecordEntry,
    SectionInstructor,
    Student,
)
from gremba.store.models.permission import (
    Delegate,
    DepartmentHead,
    PermissionEvent,
    PermissionFile,
    PermissionRequest,
    Room,
)
from gremba.store.models.permission_codes import PermissionCode, PermissionCodeGuess, PermissionCodeUse
from gremba.store.models.registration import (
    CartChange,
    Confirmation,
    Registration,
    RegistrationEvent,
    Starred,
    WeekLink,
)
from gremba.store.models.seats import FreedSeat, ReservedSeats, SeatPool
from gremba.store.models.sections import Bundle, LinkedSection, Meeting, Section
from gremba.store.models.tariff import TariffFee, TariffRate
from gremba.store.models.timetables import AcademicPlan, CartPlan, CourseWanted, TimetableDraft
from gremba.store.models.waitlists import Message, WaitlistEntry, WaitlistEvent

TABLES: tuple[type[Table], ...] = (
    Installation,
    CampusClock,
    Campus,
    Travel,
    Term,
    TermBreak,
    TariffRate,
    TariffFee,
    TermSession,
    Subject,
    Course,
    SeatPool,
    ReservedSeats,
    FreedSeat,
    Bundle,
    Section,
    LinkedSection,
    Meeting,
    Person,
    SectionInstructor,
    Student,
    RecordEntry,
    PlacementScore,
    OfficeEvent,
    StudentTerm,
    WindowAssignment,
    Window,
    Hold,
    ClearanceItem,
    ContactDetails,
    SurveyAnswers,
    CartChange,
    Confirmation,
    Registration,
    RegistrationEvent,
    Starred,
    WeekLink,
    Payment,
    AnticipatedPayment,
    LedgerEntry,
    JoinedPlan,
    SeatNote,
    NonpaymentDrop,
    NonpaymentResultLine,
    DueWarning,
    WaitlistEntry,
    WaitlistEvent,
    Message,
    PermissionCode,
    PermissionCodeUse,
    PermissionCodeGuess,
    Session,
    PasswordLink,
    KnownBrowser,
    SignIn,
    DoneOnce,
    AuditEntry,
    AuditKey,
    AuditHead,
    AuditAnchor,
    TimetableDraft,
    CartPlan,
    CourseWanted,
    AcademicPlan,
    Room,
    DepartmentHead,
    Delegate,
    PermissionRequest,
    PermissionEvent,
    PermissionFile,
)
"""All of them, each after those that it refers to."""
