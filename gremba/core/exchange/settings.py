"""Settings of a term's policy as a folder holds them: each a document of the form that the policy has."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from gremba.core.catalogue import Policy
from gremba.core.exchange.mistakes import ValueMistake, nearest

_USUAL = Policy()


def check_setting(setting: str, read: Policy) -> None:
    """See whether a setting holds what the policy's own one does.

    Args:
        read: a policy that was made of this setting alone.

    Raises:
        ValueMistake: it does not.
    """
    usual, found = getattr(_USUAL, setting), getattr(read, setting)
    if not _is_like(usual, found):
        raise ValueMistake("is not what this setting holds; write one out to see its form")


def check_name(setting: str) -> None:
    """See whether there is such a setting.

    Raises:
        ValueMistake: there is none.
    """
    if setting == "tariff":
        raise ValueMistake("what a term costs stands in the tables tariff_rates and tariff_fees")
    known = [field.name for field in fields(Policy) if field.name != "tariff"]
    if setting not in known:
        raise ValueMistake("there is no such setting", nearest(setting, known))


def _is_like(usual: Any, found: Any) -> bool:
    if isinstance(usual, bool) or isinstance(found, bool):
        return isinstance(usual, bool) and isinstance(found, bool)
    if isinstance(usual, int | float):
        return isinstance(found, int | float) and found >= 0
    if isinstance(usual, dict):
        likes = next(iter(usual.values()))
        return isinstance(found, dict) and all(_is_like(likes, value) for value in found.values())
    if isinstance(usual, tuple):
        return isinstance(found, tuple | list) and all(_is_like(usual[0], value) for value in found)
    return isinstance(found, type(usual))
