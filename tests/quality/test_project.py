"""What holds for the whole project: layers, generated files, types, style."""

from __future__ import annotations

import ast
import fnmatch
import importlib.util
import re
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from importlib import metadata
from pathlib import Path
from typing import ClassVar
from unittest import mock

import networkx as nx

from gremba.core.registration.rules import RULES
from gremba.core.registration.rules.codes import RuleCode
from gremba.handbook.data_page import data_page
from gremba.handbook.exchange_page import exchange_page
from gremba.handbook.rules_page import rules_page

ROOT = Path(__file__).parents[2]
LAYERS = ("core", "formats", "store", "actions", "standins", "demo", "web", "launch")
"""Each imports only those before it. The demo stands before the web, which shows its cast."""


class Layers(unittest.TestCase):
    def test_each_imports_only_those_before_it(self) -> None:
        # Sign-in is a stand-in that the demo uses, and actions know no stand-in.
        for index, layer in enumerate(LAYERS):
            for path in (ROOT / "gremba" / layer).rglob("*.py"):
                for name in _imports(path):
                    parts = name.split(".")
                    if parts[0] == "gremba" and len(parts) > 1 and parts[1] in LAYERS:
                        self.assertLessEqual(LAYERS.index(parts[1]), index, f"{path}: {name}")

    def test_the_core_knows_neither_database_nor_web(self) -> None:
        banned = {"peewee", "playhouse", "psycopg", "fastapi", "starlette", "pydantic"}
        for path in (ROOT / "gremba/core").rglob("*.py"):
            found = {name.split(".")[0] for name in _imports(path)}
            self.assertFalse(found & banned, path)


class Rooms(unittest.TestCase):
    """Every floor is divided by the subjects of docs/architecture.md, which import each other as it says."""

    FLOORS = ("core", "store", "actions", "web")
    BESIDE: ClassVar = {"store": {"models", "migrations"}, "web": {"requests"}}
    """Folders of a floor that are no subject."""
    AROUND: ClassVar = {"frame", "palette", "office"}
    needs: ClassVar[dict[str, set[str]]]

    @classmethod
    def setUpClass(cls) -> None:
        text = (ROOT / "docs/architecture.md").read_text().partition("## Subjects")[2].partition("\n## ")[0]
        rows = [[cell.strip() for cell in line.split("|")] for line in text.splitlines() if line[:1] == "|"]
        cls.needs = {row[1]: set(row[7].split(", ")) for row in rows[2:]}

    def test_a_floor_has_subjects_and_at_most_ten_files_of_its_own(self) -> None:
        for floor in self.FLOORS:
            inside = [p for p in (ROOT / "gremba" / floor).iterdir() if p.name != "__pycache__"]
            folders = {p.name for p in inside if p.is_dir()} - self.BESIDE.get(floor, set())
            loose = {p.stem for p in inside if p.suffix == ".py"} - {"__init__"} - set(self.needs)
            self.assertLessEqual(folders, set(self.needs), floor)
            self.assertLessEqual(len(loose), 10, (floor, loose))
        features = {p.name for p in (ROOT / "frontend/src/features").iterdir()}
        self.assertEqual(features, set(self.needs) | self.AROUND)

    def test_subjects_need_each_other_as_the_map_says(self) -> None:
        found: dict[str, set[str]] = {subject: set() for subject in self.needs}
        for floor in self.FLOORS:
            for path in (ROOT / "gremba" / floor).rglob("*.py"):
                one = path.relative_to(ROOT / "gremba" / floor).with_suffix("").parts[0]
                for name in _imports(path) if one in found else ():
                    parts = name.split(".")
                    if (
                        parts[0] == "gremba"
                        and parts[1] in self.FLOORS
                        and len(parts) > 2
                        and parts[2] in found
                    ):
                        found[one].add(parts[2])
        self.assertEqual({one: others - {one} for one, others in found.items()}, self.needs)

    def test_every_path_that_a_page_names_is_there(self) -> None:
        starts = ("gremba", "frontend/src", "docs", "tests", "tools", "benchmarks", "examples")
        paths = [path for start in starts for path in ((ROOT / start), *(ROOT / start).rglob("*"))]
        paths += [ROOT / "frontend", *filter(Path.is_file, (*ROOT.iterdir(), *(ROOT / "frontend").iterdir()))]
        files = [f"/{path.relative_to(ROOT)}{'/' if path.is_dir() else ''}" for path in paths]
        seen = 0
        for page in (ROOT / "CONTRIBUTING.md", ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
            for name in re.findall(r"`((?:[\w.-]+/)+[\w.*-]*)`", page.read_text()):
                if name.startswith(".local") or not name.endswith(
                    ("/", ".py", ".ts", ".tsx", ".md", ".sql", ".txt")
                ):
                    continue
                with self.subTest(page.name, path=name):
                    self.assertTrue(any(fnmatch.fnmatch(file, f"*/{name}") for file in files))
                seen += 1
        self.assertGreater(seen, 100)


class Codes(unittest.TestCase):
    def test_every_rule_has_its_code_and_every_code_its_rule(self) -> None:
        codes = [r.code for rules in RULES.values() for r in rules]
        self.assertEqual(set(codes), set(RuleCode))
        self.assertTrue(all(isinstance(code, RuleCode) for code in codes))

    def test_no_code_is_written_out_as_text(self) -> None:
        codes, used = set(RuleCode), set()
        for path in (ROOT / "gremba").rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.Constant) and path.name != "codes.py":
                    self.assertNotIn(node.value, codes, f"{path}:{node.lineno}")
                if isinstance(node, ast.Attribute) and ast.unparse(node.value) == "RuleCode":
                    used.add(node.attr)
        self.assertEqual(used, {code.name for code in RuleCode})


class Names(unittest.TestCase):
    def test_a_class_name_is_one_class_or_a_table_and_its_record(self) -> None:
        where: dict[str, list[str]] = {}
        for path in (ROOT / "gremba").rglob("*.py"):
            for node in ast.parse(path.read_text()).body:
                if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                    where.setdefault(node.name, []).append(str(path.relative_to(ROOT / "gremba")))
        for name, paths in where.items():
            if len(paths) > 1:
                tables = [path for path in paths if path.startswith("store/models/")]
                self.assertEqual((len(paths), len(tables)), (2, 1), (name, paths))

    def test_a_constant_says_what_it_bounds(self) -> None:
        for path in (ROOT / "gremba").rglob("*.py"):
            self.assertIsNone(re.search(r"^(MOST|LEAST|FEW|MANY)\b", path.read_text(), re.MULTILINE), path)


class Docstrings(unittest.TestCase):
    """What others may call says what it is, and what it raises."""

    def test_what_is_public_is_explained_and_names_what_it_raises(self) -> None:
        seen = 0
        for path in (ROOT / "gremba").rglob("*.py"):
            if path.parent.name == "migrations":
                continue
            # A route's docstring is for those who call the API; the commands say it by themselves.
            says_raises = not path.name.endswith("_routes.py") and path.name not in (
                "cli.py",
                "college_commands.py",
            )
            for node in _public(ast.parse(path.read_text())):
                text = ast.get_docstring(node)
                self.assertIsNotNone(text, f"{path}:{node.lineno} {node.name}")
                seen += 1
                if says_raises and _raises(node):
                    self.assertIn("Raises:", text or "", f"{path}:{node.lineno} {node.name}")
        self.assertGreater(seen, 900)


Defined = ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef


def _public(parent: ast.Module | ast.ClassDef) -> Iterator[Defined]:
    for node in parent.body:
        is_private = isinstance(node, Defined) and (node.name.startswith("_") or node.name == "Meta")
        if isinstance(node, Defined) and not is_private and not _overrides(node):
            yield node
            if isinstance(node, ast.ClassDef):
                yield from _public(node)


def _overrides(node: Defined) -> bool:
    """Whether its docstring is that of what it overrides."""
    return any(isinstance(mark, ast.Name) and mark.id == "override" for mark in node.decorator_list)


def _raises(node: Defined) -> bool:
    """Whether it raises by itself; what it calls says so there."""
    if isinstance(node, ast.ClassDef):
        return False
    left: list[ast.AST] = list(node.body)
    while left:
        here = left.pop()
        if isinstance(here, ast.Raise) and here.exc is not None:
            return True
        if not isinstance(here, Defined | ast.Lambda):
            left += [n for n in ast.iter_child_nodes(here) if isinstance(n, ast.stmt | ast.excepthandler)]
    return False


class Circles(unittest.TestCase):
    """No module needs one that needs it, and no folder of the front end: each can be read by itself."""

    def test_no_python_module_imports_itself_round_about(self) -> None:
        graph = nx.DiGraph()
        for path in (ROOT / "gremba").rglob("*.py"):
            module = ".".join(path.relative_to(ROOT).with_suffix("").parts)
            graph.add_edges_from((module, name) for name in _imports(path) if name.startswith("gremba."))
        self.assertGreater(graph.number_of_edges(), 500)
        self.assertEqual(_circles(graph), [])

    def test_no_file_or_folder_of_the_front_end_does(self) -> None:
        source = ROOT / "frontend/src"
        files, folders = nx.DiGraph(), nx.DiGraph()
        for path in source.rglob("*.ts*"):
            for name in re.findall(r'(?:from|import\()\s*"(\.[^"]+)"', path.read_text()):
                other = (path.parent / name).resolve()
                files.add_edge(path.with_suffix(""), other)
                one, two = ("/".join(p.relative_to(source).parent.parts[:3]) for p in (path, other))
                if "features" in one + two and one != two:
                    folders.add_edge(one, two)
        self.assertGreater(folders.number_of_edges(), 30)
        self.assertEqual(_circles(files) + _circles(folders), [])


def _circles(graph: nx.DiGraph) -> list[list[str]]:
    return [sorted(map(str, found)) for found in nx.strongly_connected_components(graph) if len(found) > 1]


class Generated(unittest.TestCase):
    def test_the_handbook_of_rules_is_fresh(self) -> None:
        self.assertEqual((ROOT / "docs/rules.md").read_text(), rules_page(), "run tools/generate")
        self.assertEqual((ROOT / "docs/data.md").read_text(), data_page(), "run tools/generate")
        self.assertEqual((ROOT / "docs/exchange.md").read_text(), exchange_page(), "run tools/generate")

    def test_the_front_ends_types_are_fresh(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            subprocess.run([ROOT / "tools/generate", folder], check=True, capture_output=True)
            for name in ("schema.ts", "filters.ts"):
                made = (Path(folder) / "frontend/src/api" / name).read_text()
                self.assertEqual((ROOT / "frontend/src/api" / name).read_text(), made, "tools/generate")


class Statements(unittest.TestCase):
    ADMINISTRATION = {"launch/cluster.py", "store/installation.py", "store/database.py"}
    SQL = re.compile(r"\s*(SELECT|INSERT INTO|UPDATE|DELETE FROM|WITH \w+ AS)\s")

    def test_what_stays_sql_is_listed_with_its_reason(self) -> None:
        page = (ROOT / "docs/decisions/2026-11-26-models.md").read_text()
        listed = {m[1]: int(m[2]) for m in re.finditer(r"^\| `(.+\.py)` \| (\d+) \| \w", page, re.M)}
        found: dict[str, int] = {}
        for path in (ROOT / "gremba").rglob("*.py"):
            name = str(path.relative_to(ROOT / "gremba"))
            if "migrations" not in name and name not in self.ADMINISTRATION:
                many = len(set(self._statements(ast.parse(path.read_text()))))
                found |= {name: many} if many else {}
        self.assertEqual(found, listed)
        self.assertLess(sum(found.values()), 35)

    def _statements(self, tree: ast.AST) -> list[int]:
        """The lines on which a statement begins, be it put together or not."""
        docstrings = {
            node.body[0].value
            for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        return [
            node.lineno
            for node in ast.walk(tree)
            if isinstance(node, ast.Constant)
            and node not in docstrings
            and isinstance(node.value, str)
            and self.SQL.match(node.value)
        ]


class AnticipatedPayments(unittest.TestCase):
    def test_each_test_that_security_names_is_there(self) -> None:
        named = set(
            re.findall(r"(?<![\w/])(?:[a-z]+/)*test_[a-z_]+\b", (ROOT / "docs/security.md").read_text())
        )
        self.assertGreater(len(named), 15)
        for name in named:
            self.assertTrue((ROOT / "tests" / f"{name}.py").exists(), name)

    def test_recipes_name_what_is_there(self) -> None:
        recipes = (ROOT / "CONTRIBUTING.md").read_text()
        code = "".join(path.read_text() for path in (ROOT / "gremba").rglob("*.py"))
        code += (ROOT / "tests/web/test_matrix.py").read_text()
        for name in re.findall(r"`([A-Z][A-Za-z]+|[A-Z_]{4,})`", recipes):
            self.assertIsNotNone(re.search(rf"\b{name}\b", code), name)
        for module in re.findall(r"`((?:core|store|web)\.(?:[a-z]+\.)*test_\w+)", recipes):
            self.assertTrue((ROOT / "tests" / f"{module.replace('.', '/')}.py").exists(), module)

    def test_pictures_that_the_readme_shows_are_there(self) -> None:
        for name in re.findall(r"docs/screenshots/[a-z-]+\.png", (ROOT / "README.md").read_text()):
            self.assertTrue((ROOT / name).exists(), name)


class Environment(unittest.TestCase):
    """A damaged virtual environment is told before it ends in a traceback."""

    def check(self, lock: str) -> subprocess.CompletedProcess[str]:
        with tempfile.NamedTemporaryFile("w", suffix=".lock") as file:
            file.write(lock)
            file.flush()
            return subprocess.run(
                [sys.executable, "-I", ROOT / "tools/check_environment.py", file.name],
                capture_output=True,
                text=True,
                check=False,
            )

    def test_what_is_installed_whole_passes_and_nothing_else(self) -> None:
        whole = (ROOT / "requirements/run.lock").read_text()
        self.assertEqual(self.check(whole).returncode, 0, self.check(whole).stderr)
        missing = self.check(whole + "\nno-such-package==1.0 \\\n")
        self.assertEqual(
            (missing.returncode, missing.stderr.strip()), (1, "no-such-package is not installed")
        )
        version = metadata.version("fastapi")
        other = self.check(f"fastapi=={version}.1 \\\n")
        self.assertIn(f"fastapi is {version} and not", other.stderr)
        self.assertEqual(self.check("colorama==0.4.6 ; sys_platform == 'win32' \\\n").returncode, 0)

    def test_a_file_that_is_missing_is_named(self) -> None:
        spec = importlib.util.spec_from_file_location("check", ROOT / "tools/check_environment.py")
        assert spec is not None and spec.loader is not None
        check = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(check)
        version = metadata.version("typer")
        with mock.patch.object(check.Path, "exists", lambda path: path.name != "core.py"):
            [fault] = check.faults(f"typer=={version} \\\n")
        self.assertRegex(fault, r"^typer lacks typer/.*core\.py$")


class Style(unittest.TestCase):
    def run_tool(self, *command: str, folder: Path = ROOT) -> None:
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout[-3000:] + done.stderr[-1000:])

    def test_ruff(self) -> None:
        self.run_tool(sys.executable, "-m", "ruff", "check", "gremba", "tests", "benchmarks")

    def test_it_is_formatted_and_where_not_it_says_why(self) -> None:
        self.run_tool(sys.executable, "-m", "ruff", "format", "--check", "gremba", "tests", "benchmarks")
        skipping = re.compile(r"# fmt: (?:off|skip)$", re.M)
        for folder in ("gremba", "tests", "benchmarks"):
            for path in (ROOT / folder).rglob("*.py"):
                text = path.read_text()
                if skipping.search(text):
                    self.assertIn("# Not formatted: ", text, f"{path} says no reason")

    def test_types(self) -> None:
        self.run_tool(sys.executable, "-m", "mypy", "gremba", "benchmarks", "tests")

    def test_types_of_the_front_end(self) -> None:
        self.run_tool("npm", "run", "--silent", "types", folder=ROOT / "frontend")

    def test_style_of_the_front_end(self) -> None:
        self.run_tool("npm", "run", "--silent", "lint", folder=ROOT / "frontend")


def _imports(path: Path) -> set[str]:
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found
