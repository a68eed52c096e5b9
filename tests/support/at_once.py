"""The same thing many times at once."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from typing import Any


def at_once(work: Callable[[Any], object], each: Iterable[Any]) -> None:
    """Do some work for each of these, on a thread of its own; comes back when all are done."""
    threads = [threading.Thread(target=work, args=(one,)) for one in each]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
