"""Open pages, as the server sees them: a stream each, of sections that are in sight.

Run as a process of its own, so that what listening costs is not taken from whoever measures:
``python -m benchmarks.pages PORT FILE MARK MANY``; it says "open" when all are, and at the end of its input
what it was told.
"""

from __future__ import annotations

import asyncio
import json
import os
import random
import re
import resource
import sys
import time
from pathlib import Path

from benchmarks.college import SECTIONS, TERM

IN_SIGHT = 30
"""Sections that a page shows."""

_TOLD = re.compile(rb'"(\d{5})":\{"limit":(\d+)')


async def main(port: int, file: Path, mark: str, many: int) -> None:
    """Open so many pages and listen until the input ends."""
    lines = file.read_text().splitlines()[-many:]
    # By the limit of the section that all have in sight: when each page was told of it first.
    told: dict[int, dict[int, float]] = {}
    sizes = [0, 0]
    pages = [
        asyncio.create_task(_listen(port, line.split("\t")[1], mark, told, sizes, n))
        for n, line in enumerate(lines)
    ]
    while sizes[0] < many:
        await asyncio.sleep(0.1)
    print("open", flush=True)
    await asyncio.get_running_loop().run_in_executor(None, sys.stdin.readline)
    for page in pages:
        page.cancel()
    last = {limit: (len(pages), max(pages.values())) for limit, pages in told.items()}
    print(json.dumps({"told": last, "messages": sizes[1]}), flush=True)


async def _listen(
    port: int, cookie: str, mark: str, told: dict[int, dict[int, float]], sizes: list[int], seed: int
) -> None:
    rng = random.Random(seed)
    numbers = sorted({mark, *(f"{20_000 + rng.randrange(SECTIONS)}" for _ in range(IN_SIGHT))})
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    writer.write(
        (
            f"GET /api/terms/{TERM}/stream?numbers={','.join(numbers)} HTTP/1.1\r\n"
            f"Host: 127.0.0.1\r\nCookie: {cookie}\r\n\r\n"
        ).encode()
    )
    is_open = False
    while piece := await reader.read(65_536):
        sizes[1] += 1
        if not is_open and b"event: seats" in piece:
            is_open = True
            sizes[0] += 1
        if mark.encode() in piece:
            for number, limit in _TOLD.findall(piece):
                if number.decode() == mark:
                    told.setdefault(int(limit), {}).setdefault(seed, time.time())


if __name__ == "__main__":
    # In life the pages are on other machines: what listening costs is not to be taken from the servers.
    os.nice(15)
    resource.setrlimit(resource.RLIMIT_NOFILE, (16_384, resource.getrlimit(resource.RLIMIT_NOFILE)[1]))
    asyncio.run(main(int(sys.argv[1]), Path(sys.argv[2]), sys.argv[3], int(sys.argv[4])))
