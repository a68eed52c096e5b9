"""Counts repeated acts of strangers by minute and address, so that they cannot flood the audit log."""

from __future__ import annotations

import threading
from dataclasses import replace
from datetime import datetime

from gremba.core.states import AuditKind
from gremba.store.access.audit_log import Entry

MAX_KEYS = 10_000
"""Of one minute; what comes from further addresses is counted together."""

COUNTED = frozenset(
    {
        AuditKind.LIMIT_MET,
        AuditKind.PAYMENT_FORGED,
        AuditKind.SIGN_IN_FAILED,
        AuditKind.SIGN_IN_PUT_OFF,
        AuditKind.REFUSED,
        AuditKind.PAGE_FAILED,
    }
)
"""What anybody can cause who is not signed in."""

_Key = tuple[int, AuditKind, str, str]


class CountedActs:
    """Lets through the first of each kind, address, and account in a minute, and counts the rest."""

    def __init__(self) -> None:
        self._last: dict[_Key, tuple[Entry, int]] = {}
        self._lock = threading.Lock()

    def is_first(self, entry: Entry) -> bool:
        """Whether to record this one now; otherwise it is counted."""
        if entry.person_id is not None or entry.act not in COUNTED:
            return True
        minute = int(entry.at.timestamp()) // 60
        key = (minute, entry.act, entry.address, entry.account)
        with self._lock:
            if key not in self._last and len(self._last) >= MAX_KEYS:
                entry = replace(entry, address="", account="", detail="from many addresses")
                key = (minute, entry.act, "", "")
            _, many = self._last.get(key, (entry, 0))
            self._last[key] = entry, many + 1
            return many == 0

    def over(self, now: datetime | None) -> list[Entry]:
        """Entries with the counts of past minutes, or of all."""
        with self._lock:
            minute = None if now is None else int(now.timestamp()) // 60
            keys = [key for key in self._last if minute is None or key[0] < minute]
            told = [self._last.pop(key) for key in keys]
        return [
            replace(entry, detail=f"{many - 1} more within the minute: {entry.detail}"[:500])
            for entry, many in told
            if many > 1
        ]
