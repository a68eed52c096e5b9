"""The query parameters of a search, made from the table of filters."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

from pydantic import BaseModel, Field, StringConstraints, create_model

from gremba.core.catalogue.search.filters import FILTERS, SORTS, Filters, Takes
from gremba.web.catalogue.find_schemas import Numbers

Values = Annotated[list[Annotated[str, StringConstraints(max_length=100)]], Field(max_length=60)]
Minute = Annotated[int | None, Field(ge=0, le=1440, description="Minutes since midnight")]

_FORMS: dict[Takes, tuple[Any, Any]] = {
    Takes.ANY: (Values, Field(default_factory=list)),
    Takes.FREE: (Values, Field(default_factory=list)),
    Takes.ONE: (str, ""),
    Takes.YES: (bool, False),
    Takes.TEXT: (str, ""),
    Takes.MINUTE: (Minute, None),
    Takes.NUMBERS: (Numbers | None, None),
}
"""For what a filter takes: the type of its parameter, and what it is where it is not given."""


class CommonQuery(BaseModel):
    """The query parameters that are not filters."""

    sort: str = Field("course", description=f"One of {', '.join(SORTS)}")
    against: Annotated[Numbers, Field(description="The week that fit is judged against")] = ""
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    limit: Annotated[int, Field(ge=1, le=200)] = 100

    def filters(self) -> Filters:
        """The filters of the query."""
        chosen = {f.name: getattr(self, f.name) for f in FILTERS}
        for f in FILTERS:
            if f.takes in (Takes.ANY, Takes.FREE):
                chosen[f.name] = tuple(dict.fromkeys(chosen[f.name]))
            elif f.takes is Takes.NUMBERS and chosen[f.name] is not None:
                chosen[f.name] = tuple(split_numbers(chosen[f.name]))
        return Filters(self.sort, **chosen)


if TYPE_CHECKING:
    # Made below; what a checker need know of it is the same.
    SearchQuery = CommonQuery
else:
    SearchQuery = create_model(
        "SearchQuery", __base__=CommonQuery, **{f.name: _FORMS[f.takes] for f in FILTERS}
    )


def split_numbers(text: str) -> list[str]:
    """Splits comma-separated reference numbers."""
    return [n for n in text.split(",") if n]
