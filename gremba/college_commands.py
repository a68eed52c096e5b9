"""Command-line commands that set up, import and export a college."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import Annotated

import typer
from playhouse.pool import PooledPostgresqlDatabase
from rich.console import Console
from rich.progress import Progress

from gremba.actions.exchange.bring_in import bring_in
from gremba.actions.exchange.rosters import write_rosters
from gremba.actions.exchange.told import told
from gremba.actions.exchange.write_out import write_out
from gremba.actions.problem import Problem
from gremba.core.access.audit_log import verify
from gremba.core.exchange.tables import BY_NAME
from gremba.core.states import AuditKind, Role
from gremba.core.wording import counted
from gremba.formats.exchange.sheets import UnreadableFile
from gremba.formats.exchange.source import open_source
from gremba.launch.cluster import ClusterProblem
from gremba.launch.databases import NotServed
from gremba.launch.own_database import own_database
from gremba.standins.clock import SettableClock
from gremba.standins.password_links import invite
from gremba.standins.sign_in import account_of
from gremba.store.access.audit_log import Entry, age_out, read_head, recorded, write_entries
from gremba.store.database import Unavailable, connect, connected
from gremba.store.installation import is_current, look_at

college = typer.Typer()
console = Console(highlight=False, soft_wrap=True)

Database = Annotated[
    str,
    typer.Option(
        envvar="GREMBA_DATABASE_URL",
        help="The address of a database; else the college's own in the private cluster, or the demo.",
    ),
]


def say(text: str) -> None:
    """Print to whoever started it."""
    console.print(text, markup=False)


@contextmanager
def _opened(url: str) -> Iterator[PooledPostgresqlDatabase]:
    """The database of a command; problems with it end the command with an explanation."""
    try:
        with own_database(url) as found:
            database = connect(found)
            try:
                if not is_current(database):
                    raise NotServed(
                        "This database is of another version, or holds no college. Start Gremba with it once."
                    )
                yield database
            finally:
                database.close_all()
    except (NotServed, ClusterProblem) as problem:
        say(str(problem))
        raise typer.Exit(2) from None
    except Unavailable as problem:
        say(f"The database cannot be reached: {str(problem).partition(chr(10))[0]}")
        raise typer.Exit(2) from None


def _put_on_record(database: PooledPostgresqlDatabase, detail: str) -> None:
    """Writes what is done from the command line to the audit log."""
    with connected(database):
        at = datetime.now(UTC)
        write_entries(database, [Entry(at, AuditKind.OFFICE_ACT, account="command line", detail=detail)])


def _campus_time(database: PooledPostgresqlDatabase) -> datetime:
    """The current time; in the demo, the campus clock's."""
    with connected(database):
        is_demo = look_at(database).is_demo
    return SettableClock(database).now() if is_demo else datetime.now(UTC)


@college.command(name="import")
def import_(
    source: Annotated[Path, typer.Argument(help="An exchange folder, a .zip of it, or an .xlsx.")],
    database: Database = "",
    trial: Annotated[bool, typer.Option("--trial", help="Only tell what would change.")] = False,
) -> None:
    """Import an exchange folder (docs/exchange.md), all of it or nothing."""
    try:
        with (
            _opened(database) as found,
            open_source(source) as opened,
            Progress(console=console, transient=True) as progress,
        ):
            task = progress.add_task("Reading", total=1.0)
            report = bring_in(
                found,
                opened,
                _campus_time(found),
                is_trial=trial,
                say=lambda now: progress.update(task, description=now.doing, completed=now.share),
            )
            if report.is_done and not report.changes_nothing:
                _put_on_record(found, f"exchange folder {source.name} taken over")
    except UnreadableFile as problem:
        say(f"{source.name}: {problem}.")
        raise typer.Exit(1) from None
    for line in told(report):
        say(line)
    if report.mistakes.many:
        raise typer.Exit(1)


@college.command()
def export(
    target: Annotated[Path, typer.Argument(help="A new folder, or a file that ends in .zip or .xlsx.")],
    database: Database = "",
    table: Annotated[list[str] | None, typer.Option(help="Only this table; may be said again.")] = None,
    term: Annotated[str, typer.Option(help="Only this term, without what is the college's.")] = "",
) -> None:
    """Export the college as an exchange folder, which can be imported again."""
    unknown = [name for name in table or () if name not in BY_NAME]
    if unknown:
        say(f"There is no table {unknown[0]}. There are {', '.join(BY_NAME)}.")
        raise typer.Exit(2)
    form = target.suffix.lower().removeprefix(".") if target.suffix.lower() in (".zip", ".xlsx") else "folder"
    try:
        with _opened(database) as found:
            write_out(found, target, form, target.stem, table or (), term)
    except OSError as problem:
        say(f"{target}: {problem.strerror or problem}.")
        raise typer.Exit(1) from None
    say(f"Written to {target}.")


@college.command()
def rosters(
    term: Annotated[str, typer.Argument(help="The code of a term, such as harvest-2027.")],
    target: Annotated[Path, typer.Argument(help="A new file that ends in .zip.")],
    college: Annotated[str, typer.Option(help="What the college is called.")],
    database: Database = "",
) -> None:
    """Write a term's rosters for learning platforms, as OneRoster 1.2 CSV."""
    try:
        written = BytesIO()
        with _opened(database) as found:
            write_rosters(found, term, college, written)
        with target.open("xb") as file:
            file.write(written.getvalue())
    except Problem as problem:
        say(problem.detail)
        raise typer.Exit(1) from None
    except OSError as problem:
        say(f"{target}: {problem.strerror or problem}.")
        raise typer.Exit(1) from None
    say(f"Written to {target}.")


@college.command(name="verify-record")
def verify_record(database: Database = "") -> None:
    """Verify the audit log, and report whether anything in it was altered, removed, or inserted
    (docs/registrar.md)."""
    with _opened(database) as found, connected(found):
        head = read_head(found)
        chain = verify(recorded(found, head.last_id), head)
    for one in chain.breaks:
        say(f"Entry {one.id} {one.what}.")
    if chain.older:
        say(f"{chain.older:,} entries are from before there was a chain.")
    if chain.breaks:
        say("The record has been altered.")
        raise typer.Exit(1)
    if chain.many and chain.first_at and chain.last_at:
        first, last = chain.first_at.date(), chain.last_at.date()
        say(f"{counted(chain.many, 'entry', 'entries')} from {first} to {last}: all as written.")
        say(f"The last digest: {chain.last.hex()}")
    else:
        say("Nothing is on record yet.")


@college.command(name="age-out")
def age_out_(database: Database = "") -> None:
    """Delete audit log entries past their retention. Only the tables' owner may; run it every night."""
    with _opened(database) as found, connected(found):
        gone = age_out(found, datetime.now(UTC))
    say(f"{counted(gone, 'entry', 'entries')} of the record went by age.")


@college.command(name="invite")
def invite_(
    name: Annotated[str, typer.Argument(help="The user name.")],
    role: Annotated[Role | None, typer.Option(help="What somebody new is at the college.")] = None,
    full_name: Annotated[str, typer.Option(help="What somebody new is called.")] = "",
    email: Annotated[str, typer.Option(help="The address of somebody new.")] = "",
    at: Annotated[str, typer.Option(help="Where Gremba is served.")] = "http://localhost:8460",
    database: Database = "",
) -> None:
    """Print a one-time link for setting a password: for the first registrar, or for somebody who has
    forgotten theirs. Earlier links become invalid."""
    with _opened(database) as found:
        try:
            invited = invite(found, account_of(name), role, full_name, email)
        except ValueError as problem:
            say(str(problem))
            raise typer.Exit(1) from None
        _put_on_record(found, f"password link for {invited.username}")
    if invited.is_new:
        say(f"{invited.username} is known now.")
    say(f"Within seven days, and once: {at.rstrip('/')}/welcome#{invited.token}")
