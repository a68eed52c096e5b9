"""``python -m gremba``."""

from gremba.cli import app

app(prog_name="gremba")
