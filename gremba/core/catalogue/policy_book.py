"""The settings of a term that are changed one by one, each with what it does. Settings that are documents,
such as the rates, come with the exchange folder."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from gremba.core.catalogue.setting_forms import Form, ListOf, NumberForm, OneOf, Text, WrongDocument, YesNo
from gremba.core.catalogue.term import Policy
from gremba.core.states import Waiver
from gremba.core.wording import credits_text, listed


class SettingKind(StrEnum):
    """The kind of a setting's value."""

    NUMBER = "number"
    YES_NO = "yes or no"
    TEXT = "text"
    SOME = "some of"


@dataclass(frozen=True, slots=True)
class Setting:
    """A setting of the policy.

    Attributes:
        key: its name in the policy; behind a point the key of one of several, as "credit_limits.good".
        title: what is set.
        does: what comes of it, in a sentence.
        unit: behind the number.
        least, most: bounds of a number, or of a text's length.
        is_whole: no part of one is meant.
        among: the words to choose from.
    """

    key: str
    title: str
    does: str
    kind: SettingKind
    unit: str = ""
    least: float = 0
    most: float = 0
    is_whole: bool = True
    among: tuple[str, ...] = ()


def _number(key: str, title: str, does: str, unit: str, least: float, most: float, **more: Any) -> Setting:
    return Setting(key, title, does, SettingKind.NUMBER, unit, least, most, **more)


def _credits(key: str, title: str, does: str) -> Setting:
    return _number(key, title, does, "credits", 0, 60, is_whole=False)


FIXED: tuple[Setting, ...] = (
    _credits("most_credits", "Highest limit of an advisor", "No advisor can allow a student more."),
    _credits("full_time", "Full time from", "Whoever drops below is warned; aid and visas may hang on it."),
    _credits("half_time", "Half time from", "Whoever drops below is warned."),
    Setting(
        "may_leave_by_dropping",
        "The last section can be dropped",
        "Where it cannot, leaving the term goes through an office.",
        SettingKind.YES_NO,
    ),
    Setting(
        "leave_office",
        "Office for leaving",
        "Named to students who want to drop their last section.",
        SettingKind.TEXT,
        least=1,
        most=80,
    ),
    _number("most_changes", "Changes in a cart", "A cart takes no more.", "changes", 1, 100),
    _number(
        "most_waitlist_entries",
        "Waitlist places",
        "Nobody waits in more places at once.",
        "places",
        0,
        20,
    ),
    _number("offer_hours", "An offer is held", "Then it goes to the next who waits.", "hours", 1, 168),
    _number(
        "last_answer_hour",
        "Last hour of waitlists",
        "On the day before a session begins its waitlists close at this hour.",
        "o’clock",
        0,
        23,
    ),
    Setting(
        "instructors_lift",
        "Instructors may lift",
        "What a permission code of an instructor can allow.",
        SettingKind.SOME,
        among=tuple(what.value for what in Waiver),
    ),
    _number(
        "permission_code_days", "A permission code is good for", "No code is good for longer.", "days", 1, 365
    ),
    _number(
        "most_open_permission_codes",
        "Open permission codes",
        "An instructor gives out no more for one section.",
        "codes",
        1,
        500,
    ),
)


def settings_of(policy: Policy) -> tuple[Setting, ...]:
    """The settings of a policy: the credit limit of each standing it names, then the others."""
    limits = tuple(
        _credits(
            f"credit_limits.{standing}",
            f"Credit limit, standing “{standing}”",
            "A student takes no more, unless an advisor or a request allows it.",
        )
        for standing in policy.credit_limits
    )
    return limits + FIXED


def value_of(policy: Policy, setting: Setting) -> Any:
    """A setting's value."""
    name, _, part = setting.key.partition(".")
    found = getattr(policy, name)
    if part:
        return found[part]
    return list(found) if isinstance(found, tuple) else found


class SettingMistake(ValueError):
    """An invalid value of a setting; the text says what is valid."""


def form_of(setting: Setting) -> Form:
    """The values a setting takes, on the page and in a folder."""
    match setting.kind:
        case SettingKind.NUMBER:
            return NumberForm(setting.least, setting.most, setting.unit, setting.is_whole)
        case SettingKind.YES_NO:
            return YesNo()
        case SettingKind.TEXT:
            return Text(int(setting.most))
        case SettingKind.SOME:
            return ListOf(OneOf(setting.among), 0, len(setting.among))


def check_value(setting: Setting, value: Any) -> Any:
    """Validate a value and convert it for the policy.

    Raises:
        SettingMistake: the setting does not take it.
    """
    plain = _plain(setting, value)
    try:
        form_of(setting).check(plain)
    except WrongDocument:
        raise SettingMistake(_takes(setting)) from None
    return float(plain) if setting.kind is SettingKind.NUMBER and not setting.is_whole else plain


def _plain(setting: Setting, value: Any) -> Any:
    """The canonical one of several equivalent values."""
    if isinstance(value, float) and setting.is_whole and value.is_integer():
        return int(value)
    if isinstance(value, str):
        return value.strip()
    if isinstance(value, list) and all(one in setting.among for one in value):
        return [one for one in setting.among if one in value]
    return value


def _takes(setting: Setting) -> str:
    form = form_of(setting)
    match setting.kind:
        case SettingKind.NUMBER:
            return f"Choose a {form.kind}, {form.bounds}."
        case SettingKind.YES_NO:
            return "Choose yes or no."
        case SettingKind.TEXT:
            return f"Write {form.bounds}."
        case SettingKind.SOME:
            return f"Choose among {listed(setting.among)}."


def documents_of(policy: Policy) -> tuple[tuple[str, str, str], ...]:
    """The parts of the policy that are not settings: name, title, and summary."""
    tariff, account, permission = policy.tariff, policy.account, policy.permission
    rates = sum(1 for rate in tariff.classes.values() if rate.per_credit or rate.band_cents)
    standings = listed([name for _, name in policy.class_standings])
    texts = policy.clearance
    return (
        ("class_standings", "Class standings", f"By credits earned: {standings}."),
        (
            "tariff",
            "Tariff",
            f"{rates} of {len(tariff.classes)} classes of students have rates; {len(tariff.fees)} fees."
            if rates or tariff.fees
            else "None: nobody is charged for anything.",
        ),
        (
            "account",
            "Due dates",
            f"{len(account.due_dates)} due dates, {len(account.installments)} installment plans."
            if account.due_dates or account.installments
            else "None: nobody loses a seat over money.",
        ),
        (
            "permission",
            "Requests",
            f"Can be asked for: {listed([what.value for what in Waiver if permission.may_be_asked(what)])}.",
        ),
        (
            "clearance",
            "Agreement, survey, orientation",
            f"{len(texts.agreement)} paragraphs, {len(texts.survey)} questions, "
            f"{len(texts.orientation)} pages.",
        ),
    )


def with_setting(data: Mapping[str, Any], policy: Policy, setting: Setting, value: Any) -> dict[str, Any]:
    """A policy document with another value for a setting; settings it does not name stay unnamed.

    Args:
        data: the document as it is kept.
        policy: what it is read as.
    """
    name, _, part = setting.key.partition(".")
    if not part:
        return {**data, name: value}
    return {**data, name: {**getattr(policy, name), part: value}}


def describe(setting: Setting, value: Any) -> str:
    """A value in words, for the audit log."""
    if setting.kind is SettingKind.NUMBER:
        if setting.unit == "credits":
            return credits_text(value)
        return f"{value:g} {setting.unit}"
    if setting.kind is SettingKind.YES_NO:
        return "yes" if value else "no"
    return listed(value) if isinstance(value, list) else str(value)
