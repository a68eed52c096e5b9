"""Changes the settings of a term."""

from __future__ import annotations

from typing import Any

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem, no_such_term
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.policy_book import (
    SettingMistake,
    check_value,
    describe,
    settings_of,
    value_of,
    with_setting,
)
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.catalogue.read_term import policy_from_data
from gremba.store.catalogue.terms import lock_policy, set_policy
from gremba.store.database import connected


def change_setting(context: ActionContext, code: str, key: str, value: Any) -> tuple[TermCatalogue, str]:
    """Change a setting; returns the term and a summary of the change.

    Raises:
        Problem: there is no such term or setting, or it does not take the value.
    """
    with connected(context.database) as database, database.atomic():
        data = lock_policy(database, code)
        if data is None:
            raise no_such_term(code)
        policy = policy_from_data(data)
        setting = next((s for s in settings_of(policy) if s.key == key), None)
        if setting is None:
            raise Problem(ProblemKind.SETTING_WRONG, "There is no such setting; reload the page.")
        try:
            new = check_value(setting, value)
        except SettingMistake as problem:
            raise Problem(ProblemKind.SETTING_WRONG, str(problem)) from None
        was = value_of(policy, setting)
        told = f"{setting.title}: {describe(setting, was)} → {describe(setting, new)}"
        if new != was:
            set_policy(database, code, with_setting(data, policy, setting, new))
    term = context.catalogue.reload(code)
    if term is None:
        raise no_such_term(code)
    return term, told
