"""The application in one process, as a worker serves it: ``python -m tests.support.serving PORT``."""

from __future__ import annotations

import sys

import uvicorn

from gremba.launch.workers import server_config
from gremba.settings import Settings

if __name__ == "__main__":
    settings = Settings()  # type: ignore[call-arg]
    config = server_config(settings, "gremba.web.app:create_app", "127.0.0.1", int(sys.argv[1]))
    uvicorn.Server(config).run()
