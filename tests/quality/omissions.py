"""Forgets a step of each recipe in CONTRIBUTING.md, one at a time in a copy, and says whether the test that the
recipe names notices: ``python -m tests.quality.omissions [part of a recipe's name]``."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[2]


@dataclass(frozen=True, slots=True)
class Omission:
    """A step that is forgotten.

    Attributes:
        recipe: its heading.
        what: what is forgotten.
        file: in which it is.
        old: what stands there, once.
        new: what stands there where the step was forgotten.
        test: the one that notices; as the recipe names it, or a part of that.
    """

    recipe: str
    what: str
    file: str
    old: str
    new: str
    test: str


OMISSIONS = (
    Omission(
        "A rule",
        "its place in RULES",
        "gremba/core/registration/rules/__init__.py",
        "        who.consent_used,\n",
        "",
        "core.registration.test_rules",
    ),
    Omission(
        "A rule",
        "why it is asked",
        "gremba/core/registration/rules/who.py",
        "    Why: A code is one promise",
        "    A code is one promise",
        "core.registration.test_rules",
    ),
    Omission(
        "A rule",
        "what its answer depends on",
        "gremba/core/registration/rules/load.py",
        "    gate=_is_over_in_all,\n    depends_on=[Matter.CREDITS],",
        "    gate=_is_over_in_all,\n    depends_on=(),",
        "core.registration.test_brute_force",
    ),
    Omission(
        "A filter of Find",
        "the values of a section",
        "gremba/core/catalogue/search/filters.py",
        "        of=lambda s: [s.session.code],",
        "        of=lambda s: [],",
        "core.catalogue.test_search.Table",
    ),
    Omission(
        "A page for a role",
        "for whom it is",
        "gremba/web/access/guard.py",
        '    "list_nonpayment_drops": CASHIERS,\n',
        "",
        "web.test_matrix",
    ),
    Omission(
        "A page for a role",
        "its address on the server",
        "gremba/web/frontend.py",
        "(nonpayment|day|",
        "(day|",
        "web.test_pages",
    ),
    Omission(
        "A field on a section's sheet",
        "filling it in",
        "gremba/web/catalogue/find_responses.py",
        '            "waitlist": waitlist_sentence(section),\n',
        "",
        "web.catalogue.test_find.InTheDemo",
    ),
    Omission(
        "A message to students",
        "its words",
        "gremba/core/messages.py",
        """    MessageKind.PAID: Template(
        "{amount} was paid",
        ("{amount} has come for {term}; your statement has it.",),
    ),
""",
        "",
        "core.test_messages",
    ),
    Omission(
        "A message to students",
        "the migration",
        "gremba/core/messages.py",
        """    PAID = "paid"
""",
        """    PAID = "paid in full"
""",
        "store.test_models",
    ),
    Omission(
        "A line of the check list",
        "its place in CHECKS",
        "gremba/core/catalogue/term_check/check_list.py",
        '    Check("sessions", "Every section meets inside its session", Mend.SECTIONS, False, inside_sessions),\n',
        "",
        "core.catalogue.test_term_check",
    ),
    Omission(
        "A line of the check list",
        "its case",
        "gremba/core/catalogue/term_check/check_list.py",
        '    Check("tariff", "The tariff is set", Mend.FOLDER, False, tariff_set),\n',
        '    Check("tariff", "The tariff is set", Mend.FOLDER, False, tariff_set),\n'
        '    Check("once more", "The tariff is set", Mend.FOLDER, False, tariff_set),\n',
        "core.catalogue.test_term_check",
    ),
    Omission(
        "A setting of the college",
        "what it does and within which bounds",
        "gremba/core/catalogue/policy_book.py",
        '        "most_waitlist_entries",\n',
        '        "full_time",\n',
        "core.catalogue.test_policy_book",
    ),
    Omission(
        "An export",
        "for whom it is",
        "gremba/web/access/guard.py",
        '    "read_academic_plan_file": STUDENTS_AND_ADVISORS,\n',
        "",
        "web.test_matrix",
    ),
    Omission(
        "A waitlist's policy",
        "the migration",
        "gremba/core/states.py",
        '    AUTOMATIC = "automatic"\n',
        '    AUTOMATIC = "given at once"\n',
        "store.test_models",
    ),
    Omission(
        "A payment service",
        "believing only its own answers",
        "gremba/actions/account/payment_service.py",
        "if not self._secret or not hmac.compare_digest(sign(answer.body, self._secret).encode(), signature):",
        "if not self._secret:",
        "store.account.test_paying",
    ),
    Omission(
        "A way of signing in",
        "for whom it is",
        "gremba/web/access/guard.py",
        '    "open_session": ANYONE,\n',
        "",
        "web.test_matrix",
    ),
    Omission(
        "A table",
        "the migration",
        "gremba/store/models/sections.py",
        '    consent_needed = BooleanField(constraints=[default("false")])\n',
        '    consent_needed = BooleanField(constraints=[default("false")])\n'
        '    is_quiet = BooleanField(constraints=[default("false")])\n',
        "store.test_models",
    ),
    Omission(
        "A table",
        "its place in TABLES",
        "gremba/store/models/__init__.py",
        "    LinkedSection,\n    Meeting,\n",
        "    Meeting,\n",
        "store.test_models",
    ),
    Omission(
        "A table of the exchange folder",
        "where it is kept",
        "gremba/store/exchange/kept.py",
        '    "breaks": Kept(m.TermBreak, _same(m.TermBreak, "name", "first_day", "last_day"), (_term(m.TermBreak),)),\n',
        "",
        "store.exchange.test_exchange",
    ),
    Omission(
        "A table of the exchange folder",
        "a column in the example",
        "gremba/core/exchange/tables/sections.py",
        '            must("session", "code of the session", "full"),\n',
        '            must("session", "code of the session", "full"),\n'
        '            may("sign", ValueKind.TEXT, "a sign", "owl"),\n',
        "store.exchange.test_exchange.Example",
    ),
)


def main() -> int:
    """Forget each in turn; gives how many were not noticed."""
    part = sys.argv[1].lower() if len(sys.argv) > 1 else ""
    missed = 0
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "copy"
        leave = shutil.ignore_patterns(".git", "node_modules", "postgres*", "__pycache__", ".hypothesis")
        shutil.copytree(ROOT, copy, ignore=leave, symlinks=True)
        for omission in OMISSIONS:
            if part not in omission.recipe.lower():
                continue
            file = copy / omission.file
            whole = file.read_text()
            file.write_text(whole.replace(omission.old, omission.new))
            found = subprocess.run(
                [sys.executable, "-m", "unittest", f"tests.{omission.test}"],
                cwd=copy,
                capture_output=True,
                text=True,
                check=False,
            )
            file.write_text(whole)
            missed += found.returncode == 0
            said = "NOT NOTICED" if found.returncode == 0 else "noticed"
            print(f"{said:<12} {omission.recipe}: {omission.what} ({omission.test})", flush=True)
    return missed


if __name__ == "__main__":
    sys.exit(main())
