"""Turns an import's report into responses."""

from __future__ import annotations

from gremba.actions.exchange.bring_in import ImportReport
from gremba.core.wording import times_text
from gremba.web.schemas import AffectedSectionResponse, FolderReport, MistakeResponse, RowChange, TableChange


def report_response(report: ImportReport) -> FolderReport:
    """A report, with the first items of each list in full."""
    return FolderReport(
        mistakes=[
            MistakeResponse(
                table=m.table, line=m.line, column=m.column, value=m.value, problem=m.problem, guess=m.guess
            )
            for m in report.mistakes.noted
        ],
        mistakes_in_all=report.mistakes.many,
        tables=[
            TableChange(
                name=table.name,
                rows=table.rows,
                new=table.new,
                changed=table.changed,
                left_out=table.left_out,
                first_changed=[
                    RowChange(key=list(row.key), cells={name: list(both) for name, both in row.cells.items()})
                    for row in table.first_changed
                ],
            )
            for table in report.tables
        ],
        affected=[
            AffectedSectionResponse(
                number=one.change.after.reference_number,
                name=one.change.after.name,
                is_off=one.change.is_off,
                before=times_text(one.change.before.meetings),
                after=times_text(one.change.after.meetings),
                registered=one.registered,
                waiting=one.waiting,
                in_carts=one.in_carts,
                clashing=one.clashing,
            )
            for one in report.affected.sections
        ],
        windows=report.affected.windows,
        charged=report.affected.charged,
        strangers=list(report.strangers),
        changes_nothing=report.changes_nothing,
        has_moved=report.has_moved,
        is_done=report.is_done,
        digest=report.digest(),
    )
