"""The record's chain: whatever is altered, taken out or put in is noticed."""

from __future__ import annotations

import hashlib
import json
import unittest
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from gremba.core.access.audit_log import FIRST, MOST_BREAKS, Head, Recorded, Verified, digest_of
from gremba.core.access.audit_log import verify as verify_with
from tests.support.examples import examples

AT = datetime(2027, 4, 19, 12, 52, 3, 250, UTC)


def chain(details: Sequence[str], first_id: int = 1) -> list[Recorded]:
    before, entries = FIRST, []
    for n, detail in enumerate(details):
        said = (AT + timedelta(seconds=n), "office act", 7, "", n or None, "10.0.0.1", f"r{n}", detail)
        digest = digest_of(before, *said)
        entries.append(Recorded(first_id + n, *said, before, digest))
        before = digest
    return entries


def verify(entries: Sequence[Recorded], whole: Sequence[Recorded] | None = None, gone: int = 0) -> Verified:
    """Verify entries, with both ends noted as they were.

    Args:
        whole: those that were written; the same where nothing is said.
        gone: how many of these went by age.
    """
    chained = [entry for entry in (entries if whole is None else whole) if entry.digest is not None]
    last = chained[-1] if chained else None
    head = Head(
        last.id if last else 0,
        (last.digest if last else None) or FIRST,
        (chained[gone - 1].digest if gone else None) or FIRST,
    )
    return verify_with(entries, head)


class Chain(unittest.TestCase):
    def test_by_hand(self) -> None:
        # What is hashed, written out: the digest before, then what the entry says as JSON.
        said = ["2027-04-19T12:52:03.000250+00:00", "office act", 7, "", None, "10.0.0.1", "r0", "é"]
        by_hand = hashlib.sha256(bytes(32) + json.dumps(said, ensure_ascii=False).encode()).digest()
        [entry] = chain(["é"])
        self.assertEqual(entry.digest, by_hand)

    def test_a_chain_as_written(self) -> None:
        found = verify(chain(["a", "b", "c"]))
        self.assertEqual((found.many, found.older, found.breaks), (3, 0, ()))
        self.assertEqual(found.last, chain(["a", "b", "c"])[-1].digest)
        self.assertEqual(verify([]).last, FIRST)

    def test_its_beginning_goes_by_age_and_older_entries_have_no_digest(self) -> None:
        old = replace(chain(["x"])[0], id=1, before=None, digest=None)
        self.assertEqual(verify([old, *chain(["a", "b"], 2)]).breaks, ())
        self.assertEqual(verify([old, *chain(["a", "b"], 2)]).older, 1)
        whole = chain(["a", "b", "c"])
        self.assertEqual(verify(whole[1:], whole, gone=1).breaks, ())
        self.assertEqual(verify([], whole, gone=3).breaks, ())

    def test_either_end_cut_off(self) -> None:
        whole = chain(["a"] * 20)
        [cut] = verify(whole[10:], whole).breaks
        self.assertEqual((cut.id, "not by age" in cut.what), (11, True))
        [cut] = verify(whole[5:], whole, gone=3).breaks
        self.assertEqual(cut.id, 6)
        [cut] = verify(whole[:10], whole).breaks
        self.assertEqual(cut.id, 10)
        self.assertIn("those up to entry 20 were taken out", cut.what)
        [cut] = verify([], whole).breaks
        self.assertIn("those up to entry 20 were taken out", cut.what)
        altered = Head(20, whole[-1].digest or b"", is_right=False)
        [note] = verify_with(whole, altered).breaks
        self.assertIn("that note was altered", note.what)

    def test_those_with_the_key_are_as_the_database_says_and_none_without_it_comes_after_them(self) -> None:
        whole = chain(["a", "b", "c", "d"])
        keyed = [whole[0], *(replace(entry, is_keyed=True, is_right=True) for entry in whole[1:])]
        self.assertEqual(verify(keyed).breaks, ())
        wrong = [*keyed[:2], replace(keyed[2], is_right=False), keyed[3]]
        self.assertEqual([b.id for b in verify(wrong).breaks], [3])
        # Rewritten with a digest that anybody can make.
        [forged] = verify([*keyed[:3], whole[3]]).breaks
        self.assertEqual((forged.id, "without the key" in forged.what), (4, True))

    def test_an_entry_without_digest_within_it(self) -> None:
        entries = chain(["a", "b", "c"])
        entries.insert(1, replace(entries[0], id=99, before=None, digest=None))
        self.assertIn("no digest", verify(entries).breaks[0].what)

    @examples(100)
    @given(st.lists(st.text(max_size=5), min_size=3, max_size=8), st.data())
    def test_any_single_change(self, details: list[str], data: st.DataObject) -> None:
        entries = chain(details)
        where = data.draw(st.integers(1, len(entries) - 2))
        victim = entries[where]
        altered = data.draw(
            st.sampled_from(
                [
                    replace(victim, detail=victim.detail + "!"),
                    replace(victim, at=victim.at + timedelta(microseconds=1)),
                    replace(victim, person_id=8),
                    replace(victim, student_id=12345),
                    replace(victim, kind="refused"),
                    replace(victim, account="x"),
                    replace(victim, address=""),
                    replace(victim, request_id=""),
                ]
            )
        )
        self.assertEqual(
            [b.id for b in verify([*entries[:where], altered, *entries[where + 1 :]], entries).breaks],
            [victim.id],
        )
        # Taken out; and put in with a digest that fits what it says.
        self.assertEqual(
            [b.id for b in verify([*entries[:where], *entries[where + 1 :]], entries).breaks],
            [entries[where + 1].id],
        )
        own = digest_of(entries[where].digest or b"", victim.at, "refused", 1, "", None, "", "", "forged")
        forged = Recorded(
            500, victim.at, "refused", 1, "", None, "", "", "forged", entries[where].digest, own
        )
        found = verify([*entries[: where + 1], forged, *entries[where + 1 :]], entries)
        self.assertEqual([b.id for b in found.breaks], [entries[where + 1].id])

    def test_it_ends_after_so_many_breaks(self) -> None:
        wrong = [replace(entry, detail="other") for entry in chain(["a"] * 500)]
        found = verify(wrong)
        self.assertEqual((len(found.breaks), found.many), (MOST_BREAKS, MOST_BREAKS))
