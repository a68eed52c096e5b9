"""Sets of small integers, stored as the bits of one integer."""

from __future__ import annotations


def bits_of(mask: int) -> list[int]:
    """The members of a bit set, ascending. For small sets; those of a whole term are read by
    :func:`gremba.core.catalogue.search.index.indexes`."""
    found = []
    while mask:
        lowest = mask & -mask
        found.append(lowest.bit_length() - 1)
        mask ^= lowest
    return found
