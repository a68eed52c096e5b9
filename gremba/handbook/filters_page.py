"""Generates the front end's table of filters."""

from __future__ import annotations

import json

from gremba.core.catalogue.search.filters import FILTERS, SORTS

_HEAD = """\
/** Find's filters and the orders of its results. Made from `gremba/core/catalogue/search/filters.py` by
 * `./tools/generate`; do not edit it here. */
"""


def filters_page() -> str:
    """The filters with chips and the orders of results, as TypeScript."""
    rows = [
        {
            "name": f.name,
            "takes": f.takes.value,
            "chip": f.chip,
            "legend": f.legend,
            "showsValue": f.shows_value,
            "short": dict(f.short),
            "reads": f.reads,
            "hint": f.hint,
            "example": f.example,
            "needsWeek": f.needs_week,
        }
        for f in FILTERS
    ]
    made = {"FILTERS": rows, "SORTS": [list(s) for s in SORTS.items()]}
    lines = [
        f"export const {name} = {json.dumps(value, ensure_ascii=False, indent=2)} as const;\n"
        for name, value in made.items()
    ]
    return "\n".join([_HEAD, *lines])
