"""Reports an import as lines for a terminal."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.actions.exchange.affected_students import AffectedSection, AffectedStudents
from gremba.actions.exchange.bring_in import ImportedChange, ImportReport, TableReport
from gremba.core.wording import counted

_MOST = 10
_MOST_SECTIONS = 50


def told(report: ImportReport) -> Iterator[str]:
    """The result with the first items of each list in full."""
    for name in report.strangers:
        yield f"{name} is no table of the folder; it was not read."
    mistakes = report.mistakes
    if mistakes.many:
        yield from map(str, mistakes.noted)
        if mistakes.many > len(mistakes.noted):
            yield f"… and {mistakes.many - len(mistakes.noted):,} more."
        yield f"{mistakes.many:,} {'mistake' if mistakes.many == 1 else 'mistakes'}; nothing was taken over."
        return
    for table in report.tables:
        yield from _of_table(table)
    yield from map(_affected_section, report.affected.sections[:_MOST_SECTIONS])
    if len(report.affected.sections) > _MOST_SECTIONS:
        yield f"… and {len(report.affected.sections) - _MOST_SECTIONS:,} more sections."
    yield from _students(report.affected)
    if report.changes_nothing:
        yield "Everything in it is there already; nothing was changed."
    elif report.is_done:
        yield "Taken over; servers that are running follow at once."
    else:
        yield "This was a trial; nothing was changed. Leave out --trial to take it over."


def _of_table(table: TableReport) -> Iterator[str]:
    parts = [f"{table.new:,} new" if table.new else "", f"{table.changed:,} changed" if table.changed else ""]
    if table.left_out:
        parts.append(f"{table.left_out:,} that are there and not in the folder stay")
    found = ", ".join(filter(None, parts))
    if found:
        yield f"{table.name}: {found}"
    yield from (f"  {_changed(change)}" for change in table.first_changed[:_MOST])


def _affected_section(one: AffectedSection) -> str:
    section = one.change.after
    what = "does not take place" if one.change.is_off else "meets otherwise"
    whom = [
        counted(one.registered, "student is registered", "students are registered"),
        counted(one.waiting, "waits", "wait") if one.waiting else "",
        f"in {counted(one.in_carts, 'cart', 'carts')}" if one.in_carts else "",
    ]
    clash = f"; in the week of {one.clashing:,} it clashes now" if one.clashing else ""
    return f"{section.name} {section.reference_number} {what}: {', '.join(filter(None, whom))}{clash}"


def _students(affected: AffectedStudents) -> Iterator[str]:
    if affected.windows:
        yield f"{counted(affected.windows, 'student has', 'students have')} other windows; they are told."
    if affected.charged:
        whom = counted(affected.charged, "student is", "students are")
        yield f"What a term costs is something else: {whom} registered and charged anew."


def _changed(change: ImportedChange) -> str:
    cells = (f"{name} {old or 'empty'} → {new or 'empty'}" for name, (old, new) in change.cells.items())
    return f"{' '.join(filter(None, change.key))}: {', '.join(cells)}"
