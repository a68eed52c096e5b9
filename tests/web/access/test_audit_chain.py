"""The record looked through, taken along and verified."""

from __future__ import annotations

import httpx

from tests.support.at_once import at_once
from tests.support.office import OFFICE, OnOffice
from tests.support.soon import soon


class Record(OnOffice):
    @classmethod
    def furnish(cls) -> None:
        cls.campus.section(seats=1)

    def test_the_chain_holds_and_tells_where_it_does_not(self) -> None:
        for n in range(3):
            self.ask("PUT", f"{OFFICE}/settings/offer_hours", {"value": 10 + n})
        self.recorded("11 hours → 12 hours")
        found = self.get("/api/record/chain")
        self.assertEqual(found["breaks"], [])
        self.assertEqual(len(found["last"]), 64)
        self.recorded("10 hours → 11 hours")
        middle = self.campus.value("SELECT id FROM audit_entries WHERE detail LIKE '%%10 hours → 11 hours%%'")
        # Only who owns the tables can do this at all.
        self.campus.run("ALTER TABLE audit_entries DISABLE TRIGGER keep_audit_entries")
        self.campus.run("UPDATE audit_entries SET detail = 'nothing' WHERE id = %s", middle)
        self.campus.run("ALTER TABLE audit_entries ENABLE TRIGGER keep_audit_entries")
        [broken] = self.get("/api/record/chain")["breaks"]
        self.assertEqual(broken, {"entry": middle, "what": "says something else than when it was written"})

    def test_it_is_looked_through_and_taken_along(self) -> None:
        self.ask("PUT", f"{OFFICE}/settings/leave_office", {"value": "=cmd()"})
        self.recorded("=cmd()")
        entries = self.get("/api/record", words="cmd")["entries"]
        self.assertEqual(len(entries), 1)
        self.assertIn("=cmd()", entries[0]["detail"])
        self.assertEqual(self.get("/api/record", words="cmd", kind="refused")["entries"], [])
        self.assertEqual(self.get("/api/record", words="cmd", until="2020-01-01")["entries"], [])
        self.assertEqual(self.get("/api/record", words="%_\\ '; --")["entries"], [])
        for path in ("/api/record", "/api/record/file"):
            for words in ("\x00", "%", "'"):
                self.assertIn(
                    self.maud.get(path, params={"words": words}).status_code, (200, 400, 422), words
                )
            self.assertEqual(self.maud.get(path, params={"since": "0001-01-01"}).status_code, 200)
        for wrong in ({"kind": "x"}, {"since": "soon"}, {"before": 0}, {"words": "x" * 101}):
            self.assertEqual(self.maud.get("/api/record", params=wrong).status_code, 422, wrong)
        table = self.maud.get("/api/record/file", params={"words": "cmd"})
        self.assertTrue(table.text.startswith("\ufeffnumber,at,what,by"))
        self.assertEqual(len(table.text.strip().splitlines()), 2)

    def test_entries_written_by_many_at_once_are_one_chain(self) -> None:
        clients = [self.campus.client(self.registrar, self.server.url) for _ in range(6)]

        def work(client: httpx.Client) -> None:
            for n in range(8):
                client.put(f"{OFFICE}/settings/offer_hours", json={"value": 1 + n})

        at_once(work, clients)
        for client in clients:
            client.close()
        # Entries are written behind the answers: both are counted in one statement, once all are there.
        counts = """SELECT ARRAY[count(*), (
                SELECT count(*) FROM audit_entries a JOIN audit_entries b ON b.digest = a.digest_before
            )] FROM audit_entries WHERE digest IS NOT NULL"""
        soon(lambda: self.campus.value(counts)[0] >= 48)
        chained, followed = self.campus.value(counts)
        self.assertEqual(followed, chained - 1)
