"""Turns Timetables questions and answers into core objects and responses."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from gremba.actions.timetables.ask import Fitted
from gremba.core.catalogue.term import Section
from gremba.core.timetables.answer import Answer, AnsweredWant, Timetable
from gremba.core.timetables.explained import WayOn
from gremba.core.timetables.question import Criterion, KeptFree, Narrowing, Question, SeatSwitch, Want
from gremba.core.timetables.sought import WantState
from gremba.core.wording import counted, sentence_case
from gremba.formats.decision_json import finding_data
from gremba.web.catalogue.find_responses import Rows
from gremba.web.timetables.timetable_schemas import (
    KeptFreeSchema,
    QuestionSchema,
    TimetablesResponse,
    WantSchema,
)


def question_of(asked: QuestionSchema) -> Question:
    """The question as the core takes it."""
    return Question(
        wants=tuple(_want(w) for w in asked.wants),
        kept_free=tuple(_kept_free(k) for k in asked.kept_free),
        may_move=frozenset(asked.may_move),
        keeps=frozenset(asked.keeps),
        criteria=tuple(dict.fromkeys(Criterion(o) for o in asked.order)),
        seats=SeatSwitch(asked.seats),
        no_tight_ways=asked.no_tight_ways,
    )


def _want(want: WantSchema) -> Want:
    return Want(
        courses=tuple(dict.fromkeys(want.courses)),
        tag=want.tag,
        count=want.count,
        is_needed=want.is_needed,
        narrowing=Narrowing(
            without=frozenset(want.without),
            only=frozenset(want.only),
            instructors=frozenset(want.instructors),
            campuses=frozenset(want.campuses),
            deliveries=frozenset(want.deliveries),
            sessions=frozenset(want.sessions),
        ),
    )


def _kept_free(kept: KeptFreeSchema) -> KeptFree:
    return KeptFree(
        weekdays=tuple(sorted(set(kept.weekdays))),
        start=kept.start,
        end=kept.end,
        label=kept.label,
        first=kept.first,
        last=kept.last,
        is_must=kept.is_must,
    )


def question_data(question: Question) -> dict[str, Any]:
    """A QuestionSchema as plain data."""
    return {
        "wants": [
            {
                "courses": list(w.courses),
                "tag": w.tag,
                "count": w.count,
                "is_needed": w.is_needed,
                "without": sorted(w.narrowing.without),
                "only": sorted(w.narrowing.only),
                "instructors": sorted(w.narrowing.instructors),
                "campuses": sorted(w.narrowing.campuses),
                "deliveries": sorted(w.narrowing.deliveries),
                "sessions": sorted(w.narrowing.sessions),
            }
            for w in question.wants
        ],
        "kept_free": [
            {
                "weekdays": list(k.weekdays),
                "start": k.start,
                "end": k.end,
                "label": k.label,
                "first": k.first,
                "last": k.last,
                "is_must": k.is_must,
            }
            for k in question.kept_free
        ],
        "may_move": sorted(question.may_move),
        "keeps": sorted(question.keeps),
        "order": [c.value for c in question.criteria],
        "seats": question.seats.value,
        "no_tight_ways": question.no_tight_ways,
    }


def timetables_response(fitted: Fitted, rows: Rows) -> TimetablesResponse:
    """The answer as the API returns it."""
    answer = fitted.answer
    return TimetablesResponse.model_validate(
        {
            "number": answer.number.value,
            "is_exact": answer.number.is_exact,
            "is_beyond": answer.number.is_beyond,
            "is_whole": answer.is_whole,
            "wants": [_want_data(answer, want) for want in answer.wants],
            "timetables": [_timetable_data(t) for t in answer.timetables],
            "shown": answer.shown and _timetable_data(answer.shown),
            "sections": {s.reference_number: rows.section(s) for s in _named(answer)},
            "stays": [h.section.reference_number for h in answer.instance.stays],
            "key_sections": [
                {
                    "section": _name(h.section),
                    "without": h.without,
                    "seats": answer.instance.seats_left(h.section),
                }
                for h in answer.key_sections
            ],
            "reasons": [
                {"title": r.title, "text": r.text, "ways_on": [_way_on_data(w) for w in r.ways_on]}
                for r in answer.reasons
            ],
            "are_reasons_whole": answer.are_reasons_whole,
            "nearest": answer.nearest
            and {
                "without": list(answer.nearest.without),
                "number": answer.nearest.number.value,
                "is_beyond": answer.nearest.number.is_beyond,
                "is_exact": answer.nearest.number.is_exact,
                "timetables": [_timetable_data(t) for t in answer.nearest.timetables],
            },
            "looked_at": sorted(answer.looked_at),
            "now": fitted.now,
            "as_of": fitted.as_of.astimezone(fitted.term.calendar.zone),
        }
    )


def _named(answer: Answer) -> Iterable[Section]:
    timetables = [*answer.timetables, *(answer.nearest.timetables if answer.nearest else ())]
    if answer.shown is not None:
        timetables.append(answer.shown)
    found = [s for t in timetables for p in t.parts for m in (p.sections, *p.alike) for s in m]
    return dict.fromkeys([*found, *(h.section for h in answer.instance.stays)])


def _name(section: Section) -> dict[str, str]:
    return {"name": section.name, "number": section.reference_number}


def _want_data(answer: Answer, want: AnsweredWant) -> dict[str, Any]:
    courses = answer.instance.term.courses
    keys = want.sought.courses or want.sought.want.courses
    return {
        "name": sentence_case(want.name),
        "state": want.sought.state.value,
        "is_in": want.is_in,
        "is_needed": want.sought.want.is_needed,
        "moves": bool(want.sought.moves),
        "courses": [{"key": key, "title": courses[key].title if key in courses else ""} for key in keys],
        "fitting": want.fitting,
        "in_all": want.in_all,
        "stopped": [{"section": _name(s.section), "finding": finding_data(s.finding)} for s in want.stopped],
        **_hangs_on(answer, want),
    }


def _hangs_on(answer: Answer, want: AnsweredWant) -> dict[str, Any]:
    if want.sought.state is WantState.SOUGHT:
        for key_section in answer.key_sections:
            section = key_section.section
            if section.course.key in want.sought.courses and not key_section.without:
                seats = answer.instance.seats_left(section)
                which = "section" if section.carries_credit else str(section.component)
                told = f"{counted(seats, 'seat', 'seats')} in the only {which} that fits"
                return {"hangs_on": told, "seats": seats}
    return {"hangs_on": "", "seats": None}


def _timetable_data(timetable: Timetable) -> dict[str, Any]:
    return {
        "place": timetable.place,
        "numbers": list(timetable.numbers),
        "parts": [
            {
                "course": p.option.course,
                "numbers": [s.reference_number for s in p.sections],
                "alike": [[s.reference_number for s in members] for members in p.alike[:12]],
                "others": p.others,
                "seats": p.option.seats,
            }
            for p in timetable.parts
        ],
        "differs": sorted(timetable.differs),
        "start": timetable.start,
        "end": timetable.end,
        "gaps": timetable.gaps,
        "days": list(timetable.days),
        "credits": timetable.credits,
        "breaks": list(timetable.breaks),
        "stops": [finding_data(f) for f in timetable.stops],
        "is_in_order": timetable.is_in_order,
    }


def _way_on_data(way_on: WayOn) -> dict[str, Any]:
    question = None if way_on.question is None else question_data(way_on.question)
    return {"text": way_on.text, "question": question}
