"""Every setting that a folder may name: its example is taken, and what is beyond its bounds is not."""

from __future__ import annotations

import json
import unittest
from collections.abc import Iterator
from dataclasses import fields
from typing import Any

from gremba.core.catalogue.policy_book import FIXED, SettingMistake, check_value
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
    YesNo,
)
from gremba.core.catalogue.term import Policy
from gremba.core.exchange.mistakes import ValueMistake
from gremba.core.exchange.settings import FOLDER_SETTINGS, check_setting
from gremba.store.catalogue.read_term import policy_from_data


def wrong_values(form: Form, value: Any) -> Iterator[Any]:
    """Values just beyond the bounds of a form, and of each part of it, beside one that is right."""
    match form:
        case NumberForm():
            yield from (form.least - 1, form.most + 1, form.least + 0.25, True, str(value), None)
            if form.is_whole:
                yield form.least + 0.5
        case YesNo():
            yield from (1, "yes", None)
        case Text():
            yield from ("", "  ", "x" * (form.most + 1), 5, None, "nul\0")
        case OneOf():
            yield from ("another word", 1, None, [])
        case MomentForm():
            yield from ("2027-08-13", "2027-08-13T17:00:00", "soon", 5)
        case Day():
            yield from ("13 August", 5)
        case OrNone():
            yield from (v for v in wrong_values(form.form, value) if v is not None)
        case ListOf():
            right = value[0] if value else None
            yield from ("a, b", {}, None)
            if right is not None:
                yield [right] * (form.most + 1)
                yield from ([*value, wrong] for wrong in wrong_values(form.form, right))
            if form.least:
                yield []
        case Row():
            yield from (value[:-1], [*value, 1], None)
            for place, (part, right) in enumerate(zip(form.forms, value, strict=True)):
                for wrong in wrong_values(part, right):
                    yield [*value[:place], wrong, *value[place + 1 :]]
        case ByWord():
            name, right = next(iter(value.items()))
            yield from ({}, [], None, {f"word {n}": right for n in range(form.most + 1)}, {"": right})
            yield from ({name: wrong} for wrong in wrong_values(form.form, right))
        case Object():
            yield from ([], None, {**value, "other": 1})
            if not form.may_miss:
                yield from ({k: v for k, v in value.items() if k != name} for name in value)
            for name, right in value.items():
                yield from ({**value, name: wrong} for wrong in wrong_values(form.fields[name], right))


class Settings(unittest.TestCase):
    def test_every_part_of_the_policy_is_there_but_what_stands_in_tables(self) -> None:
        named = {setting.name for setting in FOLDER_SETTINGS}
        self.assertEqual(named, {field.name for field in fields(Policy)} - {"tariff"})

    def test_every_example_is_taken_and_is_a_policy(self) -> None:
        for setting in FOLDER_SETTINGS:
            with self.subTest(setting=setting.name):
                value = json.loads(setting.example)
                check_setting(setting.name, value)
                self.assertIsNotNone(getattr(policy_from_data({setting.name: value}), setting.name))

    def test_what_is_beyond_its_bounds_is_refused_and_it_is_said_where(self) -> None:
        tried = 0
        for setting in FOLDER_SETTINGS:
            for wrong in wrong_values(setting.form, json.loads(setting.example)):
                with self.subTest(setting=setting.name, wrong=wrong), self.assertRaises(ValueMistake) as said:
                    check_setting(setting.name, wrong)
                self.assertIn("is not", said.exception.problem)
                tried += 1
        self.assertGreater(tried, 300)

    def test_at_its_bounds_it_is_taken(self) -> None:
        for setting in FOLDER_SETTINGS:
            if isinstance(setting.form, NumberForm):
                for value in (setting.form.least, setting.form.most):
                    check_setting(setting.name, value)
            if isinstance(setting.form, Text):
                check_setting(setting.name, "x" * setting.form.most)

    def test_by_page_and_by_folder_the_same_is_taken(self) -> None:
        by_folder = {setting.name: setting for setting in FOLDER_SETTINGS}
        for setting in FIXED:
            example = json.loads(by_folder[setting.key].example)
            self.assertEqual(check_value(setting, example), example)
            for wrong in wrong_values(by_folder[setting.key].form, example):
                with self.subTest(setting=setting.key, wrong=wrong):
                    try:
                        kept = check_value(setting, wrong)
                    except SettingMistake:
                        continue
                    # By page words may stand twice; they are kept once.
                    self.assertIsInstance(wrong, list)
                    check_setting(setting.key, kept)

    def test_what_holds_between_the_parts(self) -> None:
        account = json.loads(next(s.example for s in FOLDER_SETTINGS if s.name == "account"))
        later = {**account["due_dates"][0], "at": "2027-09-13T17:00:00-04:00"}
        plan = {**account["installments"][0], "parts": [{"percent": 60, "at": None}]}
        for setting, value, said in (
            ("class_standings", [[5, "first year"]], "does not begin with 0 and ascend"),
            ("class_standings", [[0, "a"], [27, "b"], [27, "c"]], "does not begin with 0 and ascend"),
            ("class_standings", [[0, "a"], [27, "a"]], "names one standing twice"),
            ("account", {**account, "due_dates": [later, account["due_dates"][0]]}, "order of time"),
            ("account", {**account, "installments": [plan]}, "installments 1 parts do not come to 100"),
            ("account", {**account, "warn_days": [7, 0]}, "warn_days 2 is not a whole number, 1 to 60 days"),
            ("tariff", {}, "stands in the tables tariff_rates and tariff_fees"),
            ("credit_limit", 18, "there is no such setting"),
        ):
            with self.subTest(said=said), self.assertRaises(ValueMistake) as raised:
                check_setting(setting, value)
            self.assertIn(said, raised.exception.problem)


if __name__ == "__main__":
    unittest.main()
