"""What the pages of docs name exists: addresses of the API, names of tables and settings, files."""

from __future__ import annotations

import re
import unittest
from collections.abc import Iterator
from pathlib import Path

from gremba.settings import Settings
from gremba.web.app import build_app

ROOT = Path(__file__).parents[2]
PAGES = [*sorted((ROOT / "docs").glob("*.md")), ROOT / "README.md", ROOT / "CONTRIBUTING.md"]
SHIPPED = ("gremba", "frontend/src", "tools", "tests")
"""Folders whose words a page may name."""

ADDRESS = re.compile(r"(?:(GET|POST|PUT|PATCH|DELETE) )?/(api(?:/[\w.{}…-]+)*)(?:\?\S*)?")
NAME = re.compile(r"[a-z][a-z0-9]*(?:_[a-z0-9]+)+|[A-Z]+(?:_[A-Z0-9]+)+")
FILE = re.compile(r"[\w./-]+\.(?:py|tsx?|md|sh|sql|toml)")


def quoted(page: Path) -> Iterator[str]:
    """What a page names in code signs, but for its examples."""
    text = re.sub(r"```.*?```", "", page.read_text(), flags=re.DOTALL)
    yield from re.findall(r"`([^`\n]+)`", text)


def described() -> set[tuple[str, str]]:
    """Methods and addresses of the API, with what varies in an address left out."""
    paths = build_app(Settings(database_url="postgresql://nowhere/none")).openapi()["paths"]
    return {(method.upper(), _plain(path)) for path, methods in paths.items() for method in methods}


def _plain(path: str) -> str:
    return re.sub(r"\{\w+\}", "{}", path.strip("/"))


class Told(unittest.TestCase):
    def test_every_address_exists(self) -> None:
        described_now, seen = described(), 0
        for page in PAGES:
            for found in filter(None, map(ADDRESS.fullmatch, quoted(page))):
                method, path = found.groups()
                known = {p for m, p in described_now if method in (None, m)}
                self.assertTrue(
                    any(p == _plain(path) or p.startswith(f"{_plain(path)}/") for p in known),
                    f"{page.name}: {found.group()}",
                )
                seen += 1
        self.assertGreaterEqual(seen, 3)

    def test_every_link_leads_to_a_file(self) -> None:
        seen = 0
        for page in [*PAGES, ROOT / "CHANGELOG.md", *(ROOT / "docs/decisions").glob("*.md")]:
            for target in re.findall(r"\]\(([^)#]+)", page.read_text()):
                self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")
                seen += 1
        self.assertGreater(seen, 30)

    def test_every_name_exists(self) -> None:
        # Settings come from the environment under names that are put together.
        words, seen = set(_words()) | {f"GREMBA_{name.upper()}" for name in Settings.model_fields}, 0
        for page in PAGES:
            for name in filter(NAME.fullmatch, quoted(page)):
                self.assertTrue(name in words, f"{page.name}: {name}")
                seen += 1
        self.assertGreater(seen, 50)

    def test_every_file_exists(self) -> None:
        files = {str(p.relative_to(ROOT)) for p in _shipped()}
        for pattern in ("*.*", "frontend/*.*", "docs/**/*.md"):
            files |= {str(p.relative_to(ROOT)) for p in ROOT.glob(pattern)}
        seen = 0
        for page in PAGES:
            for name in filter(FILE.fullmatch, quoted(page)):
                self.assertTrue(any(f"/{f}".endswith(f"/{name}") for f in files), f"{page.name}: {name}")
                seen += 1
        self.assertGreater(seen, 50)


def _shipped() -> Iterator[Path]:
    for folder in SHIPPED:
        for path in (ROOT / folder).rglob("*"):
            if path.is_file() and "__pycache__" not in path.parts and path != Path(__file__):
                yield path


def _words() -> Iterator[str]:
    for path in _shipped():
        if path.suffix in (".py", ".ts", ".tsx", ".sh", ".sql", ""):
            yield from re.findall(r"[A-Za-z_][A-Za-z0-9_]*", path.read_text())
