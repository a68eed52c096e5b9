"""What a college may decide: values that a setting takes and does not, and what they become."""

from __future__ import annotations

import unittest
from dataclasses import fields

from gremba.core.catalogue.policy_book import (
    SettingMistake,
    check_value,
    describe,
    documents_of,
    settings_of,
    value_of,
    with_setting,
)
from gremba.core.catalogue.term import Policy
from gremba.store.catalogue.read_term import policy_from_data

BY_KEY = {setting.key: setting for setting in settings_of(Policy())}


class PolicyBook(unittest.TestCase):
    def test_every_part_of_the_policy_is_a_setting_or_a_document(self) -> None:
        told = {key.partition(".")[0] for key in BY_KEY} | {key for key, _, _ in documents_of(Policy())}
        self.assertEqual(told, {field.name for field in fields(Policy)})

    def test_what_is_usual_is_taken_and_comes_back_the_same(self) -> None:
        for key, setting in BY_KEY.items():
            with self.subTest(key):
                usual = value_of(Policy(), setting)
                again = policy_from_data(with_setting({}, Policy(), setting, check_value(setting, usual)))
                self.assertEqual(value_of(again, setting), usual)
                self.assertTrue(describe(setting, usual))

    def test_what_a_setting_does_not_take(self) -> None:
        for key, value, words in (
            ("offer_hours", 0, "1 to 168 hours"),
            ("offer_hours", 1.5, "whole number"),
            ("offer_hours", "12", "1 to 168"),
            ("offer_hours", True, "1 to 168"),
            ("full_time", 12.25, "one place"),
            ("full_time", float("nan"), "0 to 60"),
            ("may_leave_by_dropping", 1, "yes or no"),
            ("leave_office", "   ", "1 to 80 signs"),
            ("instructors_lift", ["gravity"], "consent"),
            ("instructors_lift", "consent", "consent"),
        ):
            with self.subTest(key, value=value), self.assertRaisesRegex(SettingMistake, words):
                check_value(BY_KEY[key], value)

    def test_in_words_for_the_record(self) -> None:
        for key, value, words in (
            ("offer_hours", 24, "24 hours"),
            ("full_time", 12.5, "12.5 credits"),
            ("may_leave_by_dropping", True, "yes"),
            ("may_leave_by_dropping", False, "no"),
            ("leave_office", "the dean", "the dean"),
            ("instructors_lift", ["consent", "seats"], "consent and seats"),
        ):
            self.assertEqual(describe(BY_KEY[key], value), words)

    def test_one_of_several_leaves_the_others(self) -> None:
        changed = with_setting({}, Policy(), BY_KEY["credit_limits.probation"], 12.0)
        self.assertEqual(policy_from_data(changed).credit_limits, {"good": 18.0, "probation": 12.0})

    def test_words_chosen_come_in_their_order_and_once(self) -> None:
        self.assertEqual(
            check_value(BY_KEY["instructors_lift"], ["seats", "consent", "seats"]), ["consent", "seats"]
        )
