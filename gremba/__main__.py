"""``python -m gremba``."""

import sys


def _start(arguments: list[str]) -> int:
    """./start: invalid options are reported before everything is loaded."""
    from gremba.launch.options import WrongOption, read_options

    try:
        options = read_options(arguments)
    except WrongOption as problem:
        print(problem, file=sys.stderr)
        return 2
    from gremba.launch.serve import start

    return start(options, lambda text: print(text, flush=True))


if sys.argv[1:2] == ["start"]:
    sys.exit(_start(sys.argv[2:]))

from gremba.cli import app  # noqa: E402

app(prog_name="gremba")
