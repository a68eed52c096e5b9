"""Recipes of CONTRIBUTING.md: each has a step whose omission is tried, and names the test that notices it."""

from __future__ import annotations

import re
import unittest

from tests.quality.omissions import OMISSIONS, ROOT

RECIPES = re.findall(r"^## (.+?)\n(.+?)(?=^## |\Z)", (ROOT / "CONTRIBUTING.md").read_text(), re.M | re.S)


class Recipes(unittest.TestCase):
    def test_each_has_an_omission(self) -> None:
        self.assertEqual({name for name, _ in RECIPES}, {omission.recipe for omission in OMISSIONS})

    def test_each_omission_is_of_what_is_there_and_its_test_is_named(self) -> None:
        steps = dict(RECIPES)
        for omission in OMISSIONS:
            with self.subTest(omission.recipe, what=omission.what):
                self.assertEqual((ROOT / omission.file).read_text().count(omission.old), 1)
                named = re.findall(
                    r"`((?:core|store|web)\.[\w.]+)`",
                    steps[omission.recipe].partition("Tests that catch mistakes:")[2],
                )
                self.assertTrue([name for name in named if omission.test.startswith(name)], named)


if __name__ == "__main__":
    unittest.main()
