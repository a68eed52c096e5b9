"""The handbook of rules, made from the rule book."""

from __future__ import annotations

from gremba.core.findings import Severity
from gremba.core.rules import RULES

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
}
_EFFECTS = {
    Severity.STOP: "Stops the change.",
    Severity.HEED: "Does not stop the change; to be heeded.",
    Severity.NOTE: "Does not stop the change; good to know.",
}


def rules_page() -> str:
    """The page as Markdown."""
    parts = [
        "# The rules",
        "Made from the rule book in `gremba/core/rules/` by `./tools/generate`; do not edit it "
        "here.",
        "Every change in a cart is asked all the rules for its kind, beforehand and on sending. "
        "What a rule finds is shown on the change, with the ways on.",
    ]
    for family, rules in RULES.items():
        parts.append(f"## {_FAMILIES[family]}")
        for rule in rules:
            kinds = " and ".join(f"{kind.value}s" for kind in sorted(rule.on))
            parts += [
                f"### `{rule.code}`",
                rule.checks,
                f"*Asked about:* {kinds}. *Effect:* {_EFFECTS[rule.severity]}",
                f"*Why:* {rule.why}",
                f"*Ways on:* {rule.ways_on}",
            ]
    return "\n\n".join(parts) + "\n"
