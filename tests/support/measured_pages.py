"""Has lighthouse look at the main pages of a served demo, and writes its figures into docs/speed.md."""

from __future__ import annotations

import json
import re
import subprocess
from pathlib import Path
from typing import Any

from gremba.demo.season import HARVEST
from gremba.web.access.cookies import session_cookie
from tests.support.servers import Server, new_database, stop_all
from tests.support.signing_in import signed_in_client

ROOT = Path(__file__).parents[2]
PAGE = ROOT / "docs/speed.md"
BEGIN, END = "<!-- measured pages -->", "<!-- end -->"
HEAD = (
    "| page | seen by | score | first paint | largest paint | blocked | moved | script | style | data | fonts, "
    "afterwards |\n| --- | --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: |\n"
)


def _line(found: dict[str, Any]) -> str:
    def kilobytes(name: str) -> str:
        return f"{found[name] / 1000:.0f} KB"

    return (
        f"| {found['page']} | {found['form']} | {found['score']:.2f} | {found['fcp'] / 1000:.1f} s "
        f"| {found['lcp'] / 1000:.1f} s | {found['tbt']:.0f} ms | {found['cls']:.2f} | {kilobytes('script')} "
        f"| {kilobytes('style')} | {kilobytes('data')} | {kilobytes('font')} |\n"
    )


def main() -> None:
    """Measure and write."""
    server = Server(new_database("demo"), demo=True)
    try:
        client = signed_in_client(server.url, "wren")
        name = session_cookie(False).full_name
        cookie = f"{name}={client.cookies[name]}"
        client.close()
        done = subprocess.run(
            ["node", "tools/lighthouse/measure.mjs", server.url, cookie, HARVEST.code],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=True,
        )
    finally:
        stop_all()
    table = HEAD + "".join(_line(found) for found in json.loads(done.stdout))
    print(table)
    text = re.sub(f"{BEGIN}.*{END}", f"{BEGIN}\n{table}{END}", PAGE.read_text(), flags=re.DOTALL)
    PAGE.write_text(text)


if __name__ == "__main__":
    main()
