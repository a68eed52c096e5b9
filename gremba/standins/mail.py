"""A stand-in mail server on loopback that saves every message to a folder."""

from __future__ import annotations

import re
from pathlib import Path

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

HOST = "127.0.0.1"


class MailStandIn:
    """A mail server that accepts any mail and stores it as a file."""

    def __init__(self, folder: Path, port: int) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.address = f"{HOST}:{port}"
        self._controller = Controller(_Keeper(folder), hostname=HOST, port=port)

    def start(self) -> None:
        """Listen on a separate thread.

        Raises:
            OSError: something else listens there.
        """
        self._controller.start()

    def stop(self) -> None:
        """Stop listening."""
        self._controller.stop()


class _Keeper:
    def __init__(self, folder: Path) -> None:
        self._folder = folder

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:
        content = envelope.content or b""
        data = content if isinstance(content, bytes) else content.encode()
        found = re.search(rb"^Message-ID: <([A-Za-z0-9.-]+)@", data, re.MULTILINE | re.IGNORECASE)
        name = found[1].decode() if found else f"mail-{len(list(self._folder.iterdir()))}"
        # The same mail sent twice is one file: a retry overwrites it.
        (self._folder / f"{name}.eml").write_bytes(data)
        return "250 Kept"
