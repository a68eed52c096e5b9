"""What migrations make of rows that are there already."""

from __future__ import annotations

import importlib
import random

from gremba.store.places import heads
from tests.support.waitlists import OnWaitlists

RIGHT = importlib.import_module("gremba.store.migrations.0008_right")


class Order(OnWaitlists):
    def test_whoever_waits_keeps_the_position_that_an_office_gave(self) -> None:
        """Ranks were times once, and a clock may have gone back between two who joined."""
        number = self.section(seats=0)
        people = self.campus.people(7)
        for who in people:
            self.send(who, f"?{number}")
        self.campus.run("ALTER TABLE places ADD COLUMN ranked_at timestamptz")
        chance = random.Random(8)
        for _ in range(20):
            self.campus.run("UPDATE places SET ranked = NULL, ranked_at = NULL, "
                            "joined_at = now() - make_interval(mins => (60 - id)::int)")  # fmt: skip
            for place in chance.sample(range(1, 8), 3):
                self.campus.run("UPDATE places SET ranked_at = now() - make_interval(secs => %s::int) "
                                "WHERE id = %s", chance.randrange(3000, 3700), place)  # fmt: skip
            had = self.campus.value("SELECT array_agg(id ORDER BY coalesce(ranked_at, joined_at), id) "
                                    "FROM places")  # fmt: skip
            self.campus.run(RIGHT.KEEP_ORDER)
            with self.campus.database.connection_context():
                self.assertEqual([p.id for p in heads(self.campus.database, 1, 9)], had)
