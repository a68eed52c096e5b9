"""What students read: every case of the tables with its sentences and ways on, as one text.

``python -m tests.core.registration.sentences`` writes ``sentences.txt`` beside this file. It is to be read when it
changes: each line is a sentence somebody will see.
"""

from __future__ import annotations

from pathlib import Path

from gremba.core.registration.findings import (
    Finding,
    GoTo,
    MoveUp,
    PutInCart,
    SeeChange,
    TakeInstead,
    TakeOut,
)
from tests.core.registration.cases import CASES, week
from tests.core.registration.more_cases import MORE_CASES
from tests.core.registration.set_cases import SET_CASES
from tests.core.registration.wait_cases import WAIT_CASES
from tests.support.world import World

ALL_CASES = CASES + MORE_CASES + WAIT_CASES + SET_CASES
KEPT = Path(__file__).with_name("sentences.txt")


def sentences() -> str:
    """The text."""
    lines: list[str] = []
    for name, setups, changes, _, _ in ALL_CASES:
        world = World()
        week(world)
        for setup in setups:
            setup(world)
        decision = world.decide(*changes)
        lines.append(f"# {name}")
        for change, outcome in zip(changes, decision.outcomes, strict=True):
            lines.append(f"{change}: {outcome.result.value}")
            for finding in outcome.findings:
                lines += _lines(finding)
        lines.append("")
    return "\n".join(lines)


def _lines(finding: Finding) -> list[str]:
    ask = f" [ask: {finding.ask}]" if finding.ask else ""
    found = [f"    {finding.severity.value} {finding.code}: {finding.text}{ask}"]
    for way in finding.remedies:
        does = ""
        match way.action:
            case PutInCart(wishes):
                does = " -> " + ", ".join(f"{w.kind} {w.number} {w.in_exchange}".strip() for w in wishes)
            case TakeInstead(numbers):
                does = f" -> instead {' '.join(numbers)}"
            case TakeOut(numbers):
                does = f" -> out {' '.join(numbers)}"
            case MoveUp():
                does = " -> up"
            case SeeChange(number):
                does = f" -> see {number}"
            case GoTo(target):
                does = f" -> {target.value}"
        found.append(f"        {way.text}{does}")
    return found


if __name__ == "__main__":
    KEPT.write_text(sentences())
