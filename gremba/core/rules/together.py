"""What stands or falls with something else."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, Severity
from gremba.core.rules.case import Case, Rule, rule


@rule("together.stopped", Severity.STOP, Kind.ADD, Kind.DROP, known=None)
def together_stopped(case: Case, me: Rule) -> Iterator[Finding]:
    """Nothing stops the change itself, but one it stands or falls with is stopped, or it would
    undo one that goes through. The decision reports it, since it follows from the others.

    Why: With "all or nothing", and where sections belong together, half is worse than none.

    Ways on: Look at the change that is stopped; choose "each change by itself" to put the rest
    through without it.
    """
    return iter(())
