"""What the application knows: every table, a file an area."""

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
    Cut,
    CutResultLine,
    DueWarning,
    JoinedPlan,
    LedgerEntry,
    Payment,
    Promise,
    SeatNote,
)
from gremba.store.models.base import Table
from gremba.store.models.catalogue import Block, Campus, Course, Subject, Term, TermBreak, Travel
from gremba.store.models.clearance import (
    ClearanceItem,
    ContactDetails,
    Hold,
    StudentTerm,
    SurveyAnswers,
    Window,
    WindowAssignment,
)
from gremba.store.models.consents import ConsentCode, ConsentGuess, ConsentUse
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
from gremba.store.models.registration import (
    CartChange,
    Receipt,
    Registration,
    RegistrationEvent,
    Starred,
    WeekLink,
)
from gremba.store.models.seats import FreedSeat, ReservedBlock, SeatPool
from gremba.store.models.sections import Bundle, Companion, Meeting, Section
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
    Block,
    Subject,
    Course,
    SeatPool,
    ReservedBlock,
    FreedSeat,
    Bundle,
    Section,
    Companion,
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
    Receipt,
    Registration,
    RegistrationEvent,
    Starred,
    WeekLink,
    Payment,
    Promise,
    LedgerEntry,
    JoinedPlan,
    SeatNote,
    Cut,
    CutResultLine,
    DueWarning,
    WaitlistEntry,
    WaitlistEvent,
    Message,
    ConsentCode,
    ConsentUse,
    ConsentGuess,
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
