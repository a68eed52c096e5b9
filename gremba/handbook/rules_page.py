"""Generates docs/rules.md from the rule book."""

from __future__ import annotations

from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Severity
from gremba.core.registration.rules import RULES
from gremba.core.wording import listed

_FAMILIES = {
    "access": "May anything be changed now",
    "section": "The section and its course",
    "seats": "Seats",
    "who": "Who may take it",
    "requisite": "Preparation",
    "together": "What belongs together",
    "time": "Time",
    "load": "Load",
    "drop": "Giving up a section",
    "wait": "Waiting for a seat",
}
_EFFECTS = {
    Severity.STOP: "Stops the change.",
    Severity.WARNING: "Does not stop the change; to be minded.",
    Severity.NOTE: "Does not stop the change; good to know.",
}


_PREFACE = """\
# The rules

Made from the rule book in `gremba/core/registration/rules/` by `./tools/generate`; do not edit it here.

## How a request is decided

A request is a list of changes: adds, drops, swaps, and adjustments of what is held. The same
decision is made for the cart beforehand and on sending, so nobody learns of a rule by failing it.

1. **The end counts.** Changes are judged against what the student would have if all of them went
   through. A drop frees its hour, its credits and its seat for an add in the same request,
   wherever the two stand in the list.
2. **Some changes stand or fall together:** the two halves of a swap; a lecture and its lab; courses
   that must be taken in the same term; a bundle; a drop and the one add that puts another section of
   the course in its place. With "all or nothing" the whole request does.
3. **Where changes exclude one another,** by a clash, the credit limit or the last seat, the one
   further up in the list wins.
4. **What is stopped is taken out** and the rest judged again, until nothing more falls; then
   whatever fell is tried once more on top of what stands. In the end every refusal rests on a fact,
   or on a change that did go through.
5. **A swap is an add and a drop** in one change, and is asked the rules for both.
6. **Everything is told:** each change gets all the findings about it, not only the first. A *stop*
   refuses the change. A *warning* lets it through and says what to mind. A *note* is good to know.

A **permission code** of an instructor lifts the rules it names, for one section and one use: each rule
below says what such a code must cover. It never lifts a time conflict or a hold unless it says so.

Before the window the cart shows what would happen at its opening, with the seats as they are now."""


def rules_page() -> str:
    """docs/rules.md."""
    parts = [_PREFACE, "## The book at a glance", _glance()]
    for family, rules in RULES.items():
        parts.append(f"## {_FAMILIES[family]}")
        for rule in rules:
            kinds = listed([_KINDS[kind] for kind in Kind if kind in rule.on])
            lifted = f" *Lifted by consent for:* {rule.lifted_by.value}." if rule.lifted_by else ""
            parts += [
                f"### `{rule.code}`",
                rule.checks,
                f"*Asked about:* {kinds}. *Effect:* {_EFFECTS[rule.severity]}{lifted}",
                f"*Why:* {rule.why}",
                f"*Ways on:* {rule.ways_on}",
            ]
    return "\n\n".join(parts) + "\n"


def _glance() -> str:
    lines = ["| family | codes |", "| --- | --- |"]
    for family, rules in RULES.items():
        codes = ", ".join(f"[`{r.code}`](#{r.code.replace('.', '')})" for r in rules)
        lines.append(f"| {_FAMILIES[family]} | {codes} |")
    return "\n".join(lines)


_KINDS = {
    Kind.ADD: "adds",
    Kind.DROP: "drops",
    Kind.ADJUST: "adjustments",
    Kind.SWAP: "swaps",
    Kind.WAIT: "waits",
}
