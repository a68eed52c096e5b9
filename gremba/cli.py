"""Command-line commands other than ``./start``: serving with given settings, and generating files."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError
from rich.console import Console

from gremba.college_commands import college
from gremba.formats.requisite_list import read_list, write_list
from gremba.handbook.data_page import data_page
from gremba.handbook.exchange_page import exchange_page
from gremba.handbook.filters_page import filters_page
from gremba.handbook.rules_page import rules_page
from gremba.launch.options import USUAL_PORT, USUAL_WORKERS
from gremba.launch.workers import serve_workers
from gremba.settings import Settings
from gremba.store.catalogue.requisites import read_requisites, write_requisites
from gremba.store.database import Unavailable, connect
from gremba.web.app import build_app

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
app.add_typer(college)
console = Console(highlight=False)


def say(text: str) -> None:
    """Print to whoever started it."""
    console.print(text, markup=False)


@app.command()
def serve(
    host: Annotated[str, typer.Option(help="The address to listen at.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="Where to listen.", min=1, max=65535)] = USUAL_PORT,
    workers: Annotated[int, typer.Option(help="Processes.", min=1, max=32)] = USUAL_WORKERS,
) -> None:
    """Serve with the settings of the environment (GREMBA_…), without preparing anything."""
    try:
        settings = Settings()  # type: ignore[call-arg]
    except ValidationError as problem:
        for error in problem.errors():
            say(f"GREMBA_{str(error['loc'][0]).upper()}: {error['msg']}")
        raise typer.Exit(2) from None
    serve_workers(
        settings,
        host=host,
        port=port,
        workers=workers,
        on_ready=lambda: say(f"Serving at {host}:{port}"),
        on_workers=lambda _: None,
    )


@app.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    document = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()
    json.dump(document, sys.stdout, indent=1, sort_keys=True)


@app.command()
def requisites(
    source: Annotated[Path, typer.Argument(help="A list, one course a line.", exists=True)],
    database: Annotated[str, typer.Option(help="Write them into the courses of this database.")] = "",
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
    """Print a catalogue's requisites as a list that can be corrected and written back."""
    try:
        sys.stdout.write(write_list(read_requisites(connect(database))))
    except (ValueError, *Unavailable) as problem:
        say(f"The database: {problem}")
        raise typer.Exit(2) from None


@app.command()
def exchange(target: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write docs/exchange.md."""
    target.write_text(exchange_page())


@app.command()
def rules(target: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write docs/rules.md."""
    target.write_text(rules_page())


@app.command()
def data(target: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write docs/data.md."""
    target.write_text(data_page())


@app.command()
def filters(target: Annotated[Path, typer.Argument(help="The file to write.")]) -> None:
    """Write the front end's table of filters."""
    target.write_text(filters_page())


if __name__ == "__main__":
    app()
