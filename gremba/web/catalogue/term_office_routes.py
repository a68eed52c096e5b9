"""Routes of the registrar's term: checklist, opening and closing, settings, copying."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Request

from gremba.actions.catalogue.copy_term import NewTerm, carry_term_forward
from gremba.actions.catalogue.policies import change_setting
from gremba.actions.catalogue.term import check_term, close_term, open_term
from gremba.actions.context import ActionContext
from gremba.core.catalogue.calendar import Break
from gremba.core.catalogue.policy_book import documents_of, settings_of, value_of
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_check.check_list import Checked
from gremba.core.plain_text import plain
from gremba.web.schemas import (
    CarriedResponse,
    CheckResponse,
    DocumentResponse,
    FaultResponse,
    ForwardWanted,
    Opening,
    PreparedTerm,
    SettingResponse,
    SettingWanted,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api/office/terms/{term}")


@router.get("")
def read_prepared_term(request: Request, term: str) -> PreparedTerm:
    """A term with its setup checklist and its settings."""
    return _prepared(services_of(request).context, term)


def _prepared(context: ActionContext, code: str) -> PreparedTerm:
    checked = check_term(context, code)
    term = context.term(code)
    return PreparedTerm(
        code=term.code,
        name=term.name,
        state=term.state.value,
        first_day=term.calendar.first,
        last_day=term.calendar.last,
        sections=len(term.sections) - len(term.cancelled),
        checks=[_check(line) for line in checked],
        settings=_settings(term),
        documents=[DocumentResponse(key=k, title=t, says=s) for k, t, s in documents_of(term.policy)],
    )


def _check(line: Checked) -> CheckResponse:
    return CheckResponse(
        key=line.check.key,
        title=line.check.title,
        is_well=line.is_well,
        holds_up=line.check.holds_up,
        mend=line.check.mend.value,
        faults=[FaultResponse(text=fault.text, number=fault.number) for fault in line.faults],
        has_more=line.has_more,
    )


def _settings(term: TermCatalogue) -> list[SettingResponse]:
    return [
        SettingResponse.model_validate(
            {
                "key": setting.key,
                "title": setting.title,
                "does": setting.does,
                "kind": setting.kind.value,
                "unit": setting.unit,
                "least": setting.least,
                "most": setting.most,
                "is_whole": setting.is_whole,
                "among": list(setting.among),
                "value": value_of(term.policy, setting),
            }
        )
        for setting in settings_of(term.policy)
    ]


@router.put("/state")
def set_term_state(request: Request, term: str, opening: Opening) -> PreparedTerm:
    """Open or close a term."""
    context = services_of(request).context
    if opening.state == "open":
        name = open_term(context, term, despite=frozenset(opening.despite)).name
        despite = f", although not in order: {', '.join(opening.despite)}" if opening.despite else ""
        request.state.detail = plain(f"opened {name}{despite}")
    else:
        request.state.detail = f"closed {close_term(context, term).name}"
    return _prepared(context, term)


@router.put("/settings/{key}")
def change_term_setting(
    request: Request, term: str, key: Annotated[str, Path(max_length=80)], wanted: SettingWanted
) -> PreparedTerm:
    """Change a setting of a term."""
    context = services_of(request).context
    found, told = change_setting(context, term, key, wanted.value)
    request.state.detail = plain(f"{found.name}: {told}")
    return _prepared(context, term)


@router.post("/carried-forward")
def carry_forward(request: Request, term: str, wanted: ForwardWanted) -> CarriedResponse:
    """Copy a term to new dates, on the same weekdays; the copy is in setup."""
    context = services_of(request).context
    new = NewTerm(
        code=wanted.code,
        name=plain(wanted.name).strip(),
        first=wanted.first_day,
        last=wanted.last_day,
        breaks=tuple(Break(b.first_day, b.last_day, plain(b.name).strip()) for b in wanted.breaks),
        with_students=wanted.with_students,
    )
    carried = carry_term_forward(context, term, new)
    request.state.detail = (
        f"carried {context.term(term).name} forward to {new.name}: {carried.sections} sections"
    )
    return CarriedResponse(
        code=new.code, sections=carried.sections, cancelled=carried.cancelled, students=carried.students
    )
