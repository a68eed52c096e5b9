"""The commands behind ``./start``, and those that write generated files."""

from __future__ import annotations

import fcntl
import json
import os
import sys
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console

from gremba.formats.requisite_list import read_list, write_list
from gremba.launch import serve as server
from gremba.launch.cluster import ClusterProblem, private_cluster
from gremba.rules_page import rules_page
from gremba.settings import Settings
from gremba.store.database import Unavailable, connect
from gremba.store.requisites import read_requisites, write_requisites
from gremba.web.app import build_app

USUAL_WORKERS = min(4, os.cpu_count() or 1)
"""One process a core: rules and HTTP are Python, and a process uses one core for them."""

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
console = Console(highlight=False)


def say(text: str) -> None:
    """Tell whoever started it."""
    console.print(text, markup=False)


@app.command()
def start(
    port: Annotated[int, typer.Option(help="Where to listen.", min=1, max=65535)] = 8460,
    host: Annotated[str, typer.Option(help="The address to listen at.")] = "127.0.0.1",
    fresh: Annotated[bool, typer.Option("--fresh", help="Make new demo data.")] = False,
    database: Annotated[
        str, typer.Option(help="An existing PostgreSQL database instead of the private one.")
    ] = "",
    workers: Annotated[
        int, typer.Option(help="Processes; as many as there are cores, up to four.", min=1, max=32)
    ] = USUAL_WORKERS,
    no_demo: Annotated[bool, typer.Option("--no-demo", help="Without the demo's data.")] = False,
) -> None:
    """Serve the application."""
    if not server.port_is_free(host, port):
        say(f"Port {port} is taken, maybe by Gremba itself. Name another one with --port.")
        raise typer.Exit(1)
    try:
        if database:
            server.prepare_given(database, demo=not no_demo, fresh=fresh, say=say)
            server.serve(database, host=host, port=port, workers=workers, say=say)
        else:
            _start_private(host, port, workers, demo=not no_demo, fresh=fresh)
    except ClusterProblem as problem:
        say(str(problem))
        raise typer.Exit(1) from None
    except ValueError as problem:
        say(f"--database: {problem}")
        raise typer.Exit(2) from None
    except Unavailable as problem:
        say(f"The database cannot be reached: {str(problem).partition(chr(10))[0]}")
        say("Check that its server runs, and the address and password given with --database.")
        raise typer.Exit(1) from None


def _start_private(host: str, port: int, workers: int, *, demo: bool, fresh: bool) -> None:
    server.LOCAL.mkdir(exist_ok=True)
    with (server.LOCAL / "start.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            say("Gremba is being served from this folder already. Stop that one first.")
            raise typer.Exit(1) from None
        cluster = private_cluster(server.LOCAL, "postgres")
        cluster.start()
        try:
            url = server.prepare_private(cluster, demo=demo, fresh=fresh, say=say)
            server.serve(url, host=host, port=port, workers=workers, say=say)
        finally:
            cluster.stop()


@app.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    document = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()
    json.dump(document, sys.stdout, indent=1, sort_keys=True)


@app.command()
def requisites(
    source: Annotated[Path, typer.Argument(help="A list, one course a line.", exists=True)],
    database: Annotated[
        str, typer.Option(help="Write them into the courses of this database.")
    ] = "",
) -> None:
    """Check a list of courses with their requisites, and write it into a catalogue."""
    text = source.read_text()
    found = read_list(text)
    lines = text.splitlines()
    for mistake in found.mistakes:
        say(f"{source.name}, {mistake}")
        say(f"  {lines[mistake.line - 1]}\n  {' ' * (mistake.column - 1)}^")
    for circle in found.cycles:
        say(f"Nobody could ever take these, each needs the next: {' → '.join((*circle, circle[0]))}")
    if found.mistakes or found.cycles:
        say("Nothing was written.")
        raise typer.Exit(1)
    say(f"{len(found.requisites)} courses, no mistakes.")
    if database:
        try:
            unknown = write_requisites(connect(database), found.requisites)
        except (ValueError, *Unavailable) as problem:
            say(f"--database: {problem}")
            raise typer.Exit(2) from None
        if unknown:
            say(f"Nothing was written: the catalogue has no {', '.join(unknown)}.")
            raise typer.Exit(1)
        say("Written; servers that are running take it over at once.")


@app.command()
def catalogue_requisites(
    database: Annotated[str, typer.Argument(help="The address of a database.")],
) -> None:
    """Print a catalogue's requisites as a list, to be corrected and written back."""
    try:
        sys.stdout.write(write_list(read_requisites(connect(database))))
    except (ValueError, *Unavailable) as problem:
        say(f"The database: {problem}")
        raise typer.Exit(2) from None


@app.command()
def rules(target: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write the handbook of rules."""
    target.write_text(rules_page())


if __name__ == "__main__":
    app()
