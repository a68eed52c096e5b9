"""The JSON Schema of the folder: it takes every row that is written, and none that would not be read."""

from __future__ import annotations

import csv
import unittest
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator

from gremba.core.exchange.tables import BY_NAME, TABLES
from gremba.formats.exchange.json_schema import json_schema

EXAMPLE = Path(__file__).parents[3] / "examples/quernside"
SCHEMA = json_schema("Exchange folder", TABLES)
VALIDATOR = Draft202012Validator(SCHEMA)


def example() -> dict[str, list[dict[str, str]]]:
    found = {}
    for file in EXAMPLE.glob("*.csv"):
        with file.open(encoding="utf-8-sig", newline="") as stream:
            found[file.stem] = list(csv.DictReader(stream))
    return found


def faults(college: dict[str, Any]) -> list[str]:
    return [str(fault.message) for fault in VALIDATOR.iter_errors(college)]


class JsonSchema(unittest.TestCase):
    def test_it_is_a_schema_and_names_every_table(self) -> None:
        Draft202012Validator.check_schema(SCHEMA)
        self.assertEqual(set(SCHEMA["properties"]), set(BY_NAME))

    def test_the_example_college_is_of_it(self) -> None:
        college = example()
        self.assertGreater(len(college), 20)
        self.assertEqual(faults(college), [])

    def test_every_example_of_a_cell_is_of_it(self) -> None:
        for table in TABLES:
            row = {column.name: column.example for column in table.columns}
            self.assertEqual(faults({table.name: [row]}), [], table.name)

    def test_what_would_not_be_read_is_not_of_it(self) -> None:
        [section] = example()["sections"][:1]
        for wrong in (
            {"number": "412"},
            {"seats": "many"},
            {"component": "party"},
            {"session": ""},
            {"cancelled": "maybe"},
            {"colour": "red"},
        ):
            self.assertEqual(len(faults({"sections": [section | wrong]})), 1, wrong)
        del section["course"]
        self.assertEqual(len(faults({"sections": [section]})), 1)
        self.assertEqual(len(faults({"people": [{"username": "Wren"}]})), 3)
        self.assertEqual(len(faults({"persons": []})), 1)
