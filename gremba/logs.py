"""Logging: one line per event, never the values of variables."""

from __future__ import annotations

import structlog


def set_up_logs() -> None:
    """Set up logging with plain tracebacks: what a student sent does not belong in a log."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            structlog.processors.KeyValueRenderer(key_order=["timestamp", "level", "event"]),
        ]
    )
