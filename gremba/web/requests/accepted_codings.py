"""Which content codings a client takes."""

from __future__ import annotations


def accepts(header: str, coding: str) -> bool:
    """Whether an Accept-Encoding header allows a content coding (RFC 9110, section 12.5.3).

    A weight that is no number counts as none.

    Args:
        header: as it came; "" where there was none.
        coding: such as "gzip".
    """
    weights = {}
    for entry in header.lower().split(","):
        name, _, parameter = entry.partition(";")
        key, _, value = parameter.partition("=")
        weights[name.strip()] = _weight(value) if key.strip() == "q" else 1.0
    return weights.get(coding, weights.get("*", 0.0)) > 0


def _weight(value: str) -> float:
    try:
        return float(value)
    except ValueError:
        return 0.0
