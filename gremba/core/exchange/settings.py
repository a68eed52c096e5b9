"""The settings of a term as a folder holds them, each with its form, bounds and an example."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from typing import Any

from gremba.core.account.ledger import AnticipatedPaymentKind
from gremba.core.catalogue.policy_book import FIXED, form_of
from gremba.core.catalogue.setting_forms import (
    ByWord,
    Day,
    Form,
    ListOf,
    MomentForm,
    NumberForm,
    Object,
    OneOf,
    OrNone,
    Row,
    Text,
    WrongDocument,
    YesNo,
)
from gremba.core.exchange.mistakes import ValueMistake, nearest
from gremba.core.permission.policy import Decider
from gremba.core.states import Waiver

_CREDITS = NumberForm(0, 60, "credits", is_whole=False)
_PERCENT = NumberForm(1, 100, "per cent")


@dataclass(frozen=True, slots=True)
class FolderSetting:
    """A setting in a folder.

    Attributes:
        does: what comes of it, in a sentence.
        example: as JSON.
    """

    name: str
    does: str
    form: Form
    example: str


_EXAMPLES = {
    "most_credits": "24",
    "full_time": "12",
    "half_time": "6",
    "may_leave_by_dropping": "false",
    "leave_office": '"the registrar’s office"',
    "most_changes": "40",
    "most_waitlist_entries": "5",
    "offer_hours": "24",
    "last_answer_hour": "22",
    "instructors_lift": '["consent", "seats"]',
    "permission_code_days": "30",
    "most_open_permission_codes": "50",
}


_ACCOUNT = Object(
    {
        "due_dates": ListOf(
            Object(
                {
                    "at": MomentForm(),
                    "percent": _PERCENT,
                    "registered_through": OrNone(Day()),
                    "loses_seats": YesNo(),
                }
            ),
            0,
            20,
        ),
        "warn_days": ListOf(NumberForm(1, 60, "days"), 0, 10),
        "spare_below_cents": NumberForm(0, 10_000_000, "cents"),
        "anticipated_payments_count": YesNo(),
        "spared_kinds": ListOf(
            OneOf([kind.value for kind in AnticipatedPaymentKind]), 0, len(AnticipatedPaymentKind)
        ),
        "installments": ListOf(
            Object(
                {
                    "code": Text(40),
                    "name": Text(80),
                    "join_by": MomentForm(),
                    "parts": ListOf(Object({"percent": _PERCENT, "at": OrNone(MomentForm())}), 1, 24),
                }
            ),
            0,
            10,
        ),
        "ask_back_until": OrNone(MomentForm()),
    }
)

_PERMISSION = Object(
    {
        "deciders": ByWord(
            ListOf(OneOf([one.value for one in Decider]), 0, len(Decider)), [what.value for what in Waiver]
        ),
        "good_days": NumberForm(1, 365, "days"),
        "reminded_after_days": NumberForm(1, 60, "days"),
        "seats_beside_waitlist": YesNo(),
        "most_open": NumberForm(1, 100, "requests"),
    },
    may_miss=True,
)

_QUESTION = Object({"key": Text(40), "text": Text(400), "options": ListOf(Text(200), 1, 20)})

_CLEARANCE = Object(
    {
        "agreement": ListOf(Text(4_000), 0, 40),
        "survey": ListOf(_QUESTION, 0, 20),
        "survey_about": Text(400),
        "orientation": ListOf(Text(8_000), 0, 40),
        "orientation_about": Text(400),
    },
    may_miss=True,
)

FOLDER_SETTINGS: tuple[FolderSetting, ...] = (
    FolderSetting(
        "credit_limits",
        "By standing: a student takes no more, unless an advisor or a request allows it.",
        ByWord(_CREDITS),
        '{"good": 18, "probation": 13}',
    ),
    FolderSetting(
        "class_standings",
        "Credits earned from which a student is of a class standing, from 0, ascending.",
        ListOf(Row((NumberForm(0, 1_000, "credits", is_whole=False), Text(40))), 1, 20),
        '[[0, "first year"], [27, "second year"]]',
    ),
    *(FolderSetting(s.key, s.does, form_of(s), _EXAMPLES[s.key]) for s in FIXED),
    FolderSetting(
        "account",
        "Due dates, which seats are lost on them, and installment plans, whose parts come to 100 per cent.",
        _ACCOUNT,
        '{"due_dates": [{"at": "2027-08-13T17:00:00-04:00", "percent": 100, "registered_through": null, '
        '"loses_seats": true}], "warn_days": [7, 3, 1], "spare_below_cents": 0, '
        '"anticipated_payments_count": true, '
        '"spared_kinds": ["aid"], "installments": [{"code": "two", "name": "Two parts", "join_by": '
        '"2027-08-13T17:00:00-04:00", "parts": [{"percent": 50, "at": null}, {"percent": 50, "at": '
        '"2027-10-01T17:00:00-04:00"}]}], "ask_back_until": null}',
    ),
    FolderSetting(
        "permission",
        "What can be asked for, and who decides it, in this order.",
        _PERMISSION,
        '{"deciders": {"consent": ["instructor"], "credits": ["advisor"]}, "good_days": 14}',
    ),
    FolderSetting(
        "clearance",
        "What students agree to, are asked and read before they register.",
        _CLEARANCE,
        '{"agreement": ["I know the rules."], "survey": [{"key": "boots", "text": "Have you boots?", '
        '"options": ["Yes", "No"]}], "orientation": ["Where to find us."]}',
    ),
)

_BY_NAME = {setting.name: setting for setting in FOLDER_SETTINGS}


def check_setting(setting: str, value: Any) -> None:
    """Validate a setting's name and value.

    Raises:
        ValueMistake: it is not; says where in it, and what would be right.
    """
    if setting == "tariff":
        raise ValueMistake("what a term costs stands in the tables tariff_rates and tariff_fees")
    found = _BY_NAME.get(setting)
    if found is None:
        raise ValueMistake("there is no such setting", nearest(setting, list(_BY_NAME)))
    try:
        found.form.check(value)
        _check_further(setting, value)
    except WrongDocument as problem:
        raise ValueMistake(str(problem)) from None


def _check_further(setting: str, value: Any) -> None:
    """Validates relations between the parts of a document."""
    if setting == "class_standings":
        credits = [least for least, _ in value]
        if credits[0] != 0 or any(one >= then for one, then in pairwise(credits)):
            raise WrongDocument("does not begin with 0 and ascend")
        if len({name for _, name in value}) < len(value):
            raise WrongDocument("names one standing twice")
    if setting == "account":
        dues = [datetime.fromisoformat(due["at"]) for due in value["due_dates"]]
        if dues != sorted(dues):
            raise WrongDocument("due_dates do not stand in order of time")
        for place, plan in enumerate(value["installments"], start=1):
            if sum(part["percent"] for part in plan["parts"]) != 100:
                raise WrongDocument(f"installments {place} parts do not come to 100 per cent")
