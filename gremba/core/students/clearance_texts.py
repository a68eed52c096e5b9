"""The texts a college has its students read and agree to before registering."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class SurveyQuestion:
    """A question of the survey.

    Attributes:
        key: under which its answer is kept.
    """

    key: str
    text: str
    options: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ClearanceTexts:
    """A college's own texts.

    Attributes:
        agreement: the registration agreement, paragraph by paragraph.
        survey: asked once a term.
        survey_about: what the survey is about, in a sentence.
        orientation: page by page.
        orientation_about: what orientation is about, in a sentence.
    """

    agreement: tuple[str, ...] = ()
    survey: tuple[SurveyQuestion, ...] = ()
    survey_about: str = "Questions that help the college to plan the term."
    orientation: tuple[str, ...] = ()
    orientation_about: str = "What everybody should know before the term begins."


def texts_from_data(data: Mapping[str, Any]) -> ClearanceTexts:
    """The texts from their stored form.

    Raises:
        TypeError: there is something in it that is no text of clearance.
    """
    values = dict(data)
    for name in ("agreement", "orientation"):
        values[name] = tuple(values.get(name, ()))
    values["survey"] = tuple(
        SurveyQuestion(q["key"], q["text"], tuple(q["options"])) for q in values.get("survey", ())
    )
    return ClearanceTexts(**values)
