"""What the cart offers takes nothing from what it says would happen."""

from __future__ import annotations

import unittest
from typing import Any
from unittest import mock

from gremba.actions.registration import look_at_cart as looking
from gremba.core.registration.changes import Change, Kind, Mode
from gremba.core.registration.deciding.effort import Effort
from gremba.store.registration.carts import Cart, CartChange
from tests.support.campus import TERM, Campus
from tests.support.servers import new_database


def _spend_all(*arguments: Any) -> dict[int, Any]:
    (effort,) = [a for a in arguments if isinstance(a, Effort)]
    effort.sets = effort.questions = effort.changes = 0
    return {}


class CartEffort(unittest.TestCase):
    def test_the_other_way_of_the_cart_is_the_same_whatever_is_tried_for_ways_on(self) -> None:
        campus = Campus(new_database())
        self.addCleanup(campus.close)
        full, free, other = campus.section(0, "M"), campus.section(5, "T"), campus.section(5, "W")
        # Only a backup section lets the whole go through.
        changes = (
            Change(Kind.ADD, full, alternatives=((free,),)),
            Change(Kind.ADD, other),
        )
        cart = Cart(tuple(CartChange(n, c) for n, c in enumerate(changes)), Mode.EACH)
        who = campus.person()
        with (
            mock.patch.object(looking, "read_cart", return_value=cart),
            mock.patch.object(looking, "find_substitutes", _spend_all),
            mock.patch.object(looking, "keep_what_helps", _spend_all),
        ):
            judged = looking.look_at_cart(campus.context(), who.id, TERM)
        taken = [h.section.reference_number for h in judged.otherwise.held]
        self.assertEqual(taken, [free, other])
        self.assertEqual([h.section.reference_number for h in judged.decision.held], taken)
