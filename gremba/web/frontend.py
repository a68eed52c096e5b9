"""Serving the built front end, and the policy that keeps everything else out."""

from __future__ import annotations

import secrets
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.exceptions import HTTPException

_NONCE = "GREMBA_NONCE"

def _policy(nonce: str) -> str:
    return (
        "default-src 'none'; script-src 'self'; connect-src 'self'; img-src 'self' data:; "
        f"font-src 'self'; style-src 'self' 'nonce-{nonce}'; base-uri 'none'; "
        "form-action 'self'; frame-ancestors 'none'"
    )


def install(app: FastAPI, built: Path) -> None:
    """Serve the built pages at every address that is not the API's."""

    @app.get("/assets/{name}", include_in_schema=False)
    async def asset(name: str) -> Response:
        path = built / "assets" / name
        if path.parent != built / "assets" or not path.is_file():
            raise HTTPException(404)
        return FileResponse(path, headers={"Cache-Control": "public, max-age=31536000, immutable"})

    @app.get("/{path:path}", include_in_schema=False)
    async def page(request: Request, path: str) -> Response:
        if path.startswith(("api/", "assets/")):
            raise HTTPException(404)
        if path == "icon.svg":
            return FileResponse(built / "icon.svg", headers={"Cache-Control": "max-age=86400"})
        nonce = secrets.token_urlsafe(16)
        text = (built / "index.html").read_text().replace(_NONCE, nonce)
        return HTMLResponse(
            text,
            headers={"Content-Security-Policy": _policy(nonce), "Cache-Control": "no-store"},
        )
