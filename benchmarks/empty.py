"""A web server that answers an empty endpoint: one half of the floor."""

from __future__ import annotations

from fastapi import FastAPI

app = FastAPI()


@app.post("/")
async def empty() -> None:
    """Nothing at all."""
