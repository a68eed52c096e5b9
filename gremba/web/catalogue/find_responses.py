"""Turns sections into responses."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any

from gremba.actions.catalogue.look_at_section import Outlook
from gremba.core.account.charges import is_brought_by
from gremba.core.catalogue.requisites import describe
from gremba.core.catalogue.search.filters import BY_NAME
from gremba.core.catalogue.search.find import Found
from gremba.core.catalogue.search.fit import Fit, Seats, WeekFit
from gremba.core.catalogue.search.index import SearchIndex
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Course, Fee, Section, TermCatalogue
from gremba.core.waitlists.policy import waitlist_sentence
from gremba.core.wording import counted, day, listed, pattern
from gremba.formats.decision_json import evidence_data, outcome_data, title_of
from gremba.web import schemas
from gremba.web.registration.responses import seats_response

_NO_FIGURES = SeatFigures(0, 0)

Line = dict[str, Any]
"""A CourseRow or SectionRow as plain data: a hundred of them are made for every key that is
typed, so what never changes of them is kept with the index and no model stands in between."""


class Rows:
    """Builds result rows for one term, with fit against one schedule."""

    def __init__(self, index: SearchIndex, seats: Seats, fit: WeekFit, on: date) -> None:
        self._index = index
        self._seats = seats
        self._fit = fit
        self._on = on

    def prepare(self) -> None:
        """Build the cached part of every section."""
        for section in self._index.sections:
            self._kept(section)

    def page(self, found: Found, offset: int, limit: int) -> list[Line]:
        """A page of rows; course and section rows are counted together."""
        sections = self._index.sections
        lines: list[Line] = []
        at = 0
        for indexes in found.courses:
            size = len(indexes) + 1
            if at + size > offset and at < offset + limit:
                first = max(0, offset - at)
                for inner in range(first, min(size, offset + limit - at)):
                    if inner:
                        lines.append(self.section(sections[indexes[inner - 1]]))
                    else:
                        lines.append(_course_line(sections[indexes[0]].course))
            at += size
        return lines

    def section(self, section: Section) -> Line:
        """One section row."""
        return {
            **self._kept(section),
            "seats": seats_response(section, self._seats, self._on).model_dump(),
            "fit": _fit_data(self._fit.judge(section, self._seats)),
        }

    def _kept(self, section: Section) -> Line:
        lines = self._index.lines
        known: Line | None = lines.get(section.id)
        if known is None:
            known = lines[section.id] = _unchanging(section, self._index.term)
        return known


def _unchanging(section: Section, term: TermCatalogue) -> Line:
    return {
        "kind": "section",
        "number": section.reference_number,
        "name": section.name,
        "course": section.course.key,
        "title": title_of(section),
        "topic": section.topic,
        "component": section.component,
        "delivery": section.delivery,
        "campus": campus_of(section, term),
        "session": section.session.name,
        "first_day": section.session.first,
        "last_day": section.session.last,
        "meetings": [
            {
                "pattern": pattern(m),
                "weekdays": list(m.weekdays),
                "start": m.start,
                "end": m.end,
                "first_day": m.first,
                "last_day": m.last,
                "campus": term.campus_names.get(m.campus, m.campus),
                "room": m.room,
            }
            for m in section.meetings
        ],
        "instructors": list(section.instructors),
        "cancelled": section.cancelled,
        "consent_needed": section.consent_needed,
        "restricted": bool(section.restrictions),
        "bundle": section.bundle,
        "notes": section.notes,
        "no_textbook_cost": section.no_textbook_cost,
    }


def _course_line(course: Course) -> Line:
    return {
        "kind": "course",
        "key": course.key,
        "title": course.title,
        "credits_least": course.credits_least,
        "credits_most": course.credits_most,
        "needs": needs_of(course),
        "counts": list(course.tags),
    }


def needs_of(course: Course) -> str:
    """A course's requisites in words, or nothing."""
    return "" if course.requisites is None else describe(course.requisites)


def campus_of(section: Section, term: TermCatalogue) -> str:
    """The campus in words."""
    campuses = sorted(section.campuses or ({section.campus} if section.campus else ()))
    return listed([term.campus_names.get(c, c) for c in campuses]) or "online"


def _named(section: Section) -> dict[str, str]:
    return {"name": section.name, "number": section.reference_number}


def _fit_data(fit: Fit) -> dict[str, Any]:
    tight = None
    if fit.tight is not None:
        other, minutes, takes = fit.tight
        tight = {"other": _named(other), "minutes": minutes, "takes": takes}
    return {
        "fits": fit.fits,
        "clashes": [_named(s) for s in fit.clashes],
        "linked_sections": [
            {"component": c.component, "fitting": c.fitting, "all": c.all} for c in fit.linked_sections
        ],
        "tight": tight,
    }


def search_data(
    rows: Rows, index: SearchIndex, found: Found, offset: int, limit: int, notes: Sequence[str]
) -> dict[str, Any]:
    """A SearchResponse as plain data.

    Args:
        notes: more to be told beside what the search itself has to tell.
    """
    term = index.term
    return {
        "sections": found.total,
        "courses": len(found.courses),
        "lines": found.total + len(found.courses),
        "offset": offset,
        "rows": rows.page(found, offset, limit),
        "counts": [
            {
                "filter": name,
                "name": BY_NAME[name].called,
                "values": [
                    {
                        "value": c.value,
                        "name": BY_NAME[name].value_name(term, c.value),
                        "sections": c.sections,
                    }
                    for c in counts
                ],
            }
            for name, counts in found.counts.items()
        ],
        "notes": [*found.notes, *notes],
        "loosen": [
            {"value": c.value, "name": BY_NAME[c.value].called, "sections": c.sections} for c in found.loosen
        ],
        "read_as": [
            {"word": word, "taken_for": list(words)} for word, words in (found.read_as or {}).items()
        ],
        "understood": [
            {
                "text": reading.text,
                "filter": name,
                "value": value,
                "said": BY_NAME[name].value_name(index.term, value),
            }
            for reading in found.understood.readings
            for name, value in reading.meanings
        ],
        "rest": found.understood.kept,
    }


_REPEATS = {
    "never after a pass": "It cannot be taken again once it is passed.",
    "best counts": "It can be taken again; the better grade counts.",
    "last counts": "It can be taken again; the later grade counts.",
    "for credit": "It can be taken again, and earns its credits every time.",
}


def details_response(
    rows: Rows, term: TermCatalogue, section: Section, seats: Seats, on: date
) -> schemas.SectionDetails:
    """Everything about one section."""
    course, session = section.course, section.session
    figures = seats.get(section.pool, _NO_FIGURES)
    others = [
        s for s in term.by_course.get(course.key, ()) if s is not section and s.component == section.component
    ]
    shared = [s for s in term.sections if s.pool == section.pool and s is not section]
    linked_sections = [s for group in term.linked_sections_of(section).values() for s in group]
    bundle = [s for s in term.by_bundle.get(section.bundle or "", ()) if s is not section]
    fees = [*(course.fees if section.carries_credit else ()), *section.fees]
    each = [fee for fee in term.policy.tariff.fees if fee.each and is_brought_by(fee, section)]
    fees += [Fee(fee.label, fee.cents) for fee in each]
    return schemas.SectionDetails.model_validate(
        {
            "row": rows.section(section),
            "session": {
                "name": session.name,
                "first_day": session.first,
                "last_day": session.last,
                "add_by": session.add_by,
                "drop_by": session.drop_by,
                "withdraw_by": session.withdraw_by,
            },
            "credits_least": course.credits_least if section.carries_credit else 0,
            "credits_most": course.credits_most if section.carries_credit else 0,
            "gradings": course.gradings if section.carries_credit else [],
            "description": course.description,
            "counts": course.tags,
            "needs": needs_of(course),
            "fees": [{"label": f.label, "cents": f.cents} for f in fees],
            "restrictions": list(_restrictions(section, term)),
            "reserved": [
                f"{counted(p.left, 'seat is', 'seats are')} kept for the {p.kind} “{p.value}”"
                + (f" until {day(p.release_on)}." if p.release_on else ".")
                for p in figures.reserved_seats
                if p.left and p.is_in_force(on)
            ],
            "waitlist": waitlist_sentence(section),
            "repeat": _REPEATS.get(course.repeats, "") if section.carries_credit else "",
            "linked_sections": [rows.section(s) for s in linked_sections],
            "bundle": [rows.section(s) for s in bundle],
            "others": [rows.section(s) for s in others],
            "cross_listed": [_named(s) for s in shared],
        }
    )


def _restrictions(section: Section, term: TermCatalogue) -> Iterable[str]:
    for kind, values in section.restrictions.items():
        names = [term.campus_names.get(v, v) if kind == "campus" else v for v in values]
        yield {
            "program": f"Only for the program {listed(names, 'or')}.",
            "standing": f"Only for {listed(names, 'or')} students.",
            "campus": f"Only for students of the campus {listed(names, 'or')}.",
            "cohort": f"Only for the cohort {listed(names, 'or')}.",
            "residence": f"Only for those who live in {listed(names, 'or')}.",
        }.get(kind, f"Only for {kind} {listed(names, 'or')}.")
    if section.consent_needed:
        yield "The instructor's consent is needed: ask for a code and enter it in the cart."


def outlook_response(outlook: Outlook) -> schemas.OutlookResponse:
    """What a section would mean for one student."""
    evidence = outlook.requisites
    return schemas.OutlookResponse.model_validate(
        {
            "state": outlook.state.value,
            "outcome": outcome_data(outlook.outcome),
            "requisites": evidence and evidence_data(evidence),
            "now": outlook.now,
        }
    )
