"""Opening an exchange folder, whatever it comes as: a folder, one .zip of it, or one .xlsx."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path, PurePosixPath
from types import TracebackType
from typing import IO

from gremba.core.exchange.tables import BY_NAME
from gremba.formats.exchange.sheets import Sheet, UnreadableFile
from gremba.formats.exchange.text_sheet import read_text_sheet
from gremba.formats.exchange.workbook import read_workbook

MOST_FILES = 300
MOST_BYTES = 1 << 30
"""Of all that is read of one folder, unpacked: ten times what a college of 50,000 has."""

_ENDINGS = (".csv", ".txt", ".tsv")
_BESIDE = ("datapackage.json", "readme.md", "readme.txt")


class Source:
    """An exchange folder that is open for reading. Use it in a ``with``.

    Attributes:
        strangers: files in it that are no table of the folder.
    """

    def __init__(self, closing: ExitStack, tables: dict[str, Callable[[], Sheet]], strangers: list[str]):
        self._closing = closing
        self._tables = tables
        self.strangers = tuple(strangers)

    def __enter__(self) -> Source:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._closing.close()

    def sheets(self) -> Iterator[Sheet]:
        """Its tables, in an order in which each names only those before it."""
        for name in BY_NAME:
            if name in self._tables:
                yield self._tables[name]()


def open_source(path: Path) -> Source:
    """Open a folder, an archive or a workbook.

    Raises:
        UnreadableFile: it is none of these, or one that would do harm.
    """
    if path.is_dir():
        return _open_folder(path)
    if not path.is_file():
        raise UnreadableFile("There is no folder and no file of that name")
    if path.suffix.lower() in _ENDINGS:
        closing = ExitStack()
        tables: dict[str, Callable[[], Sheet]] = {}
        strangers: list[str] = []
        _note(path.name, tables, strangers, lambda: closing.enter_context(path.open("rb")))
        return Source(closing, tables, strangers)
    return open_packed(path.open("rb"))


def open_packed(file: IO[bytes]) -> Source:
    """Open an archive or a workbook, which is closed with the source.

    Raises:
        UnreadableFile: it is neither, or one that would do harm.
    """
    closing = ExitStack()
    closing.enter_context(file)
    try:
        archive = closing.enter_context(zipfile.ZipFile(file))
        entries = _checked(archive)
        if "[Content_Types].xml" in entries:
            return _open_workbook(file, closing)
        return _open_archive(archive, entries, closing)
    except (zipfile.BadZipFile, EOFError, OSError):
        closing.close()
        raise UnreadableFile("This is no folder, no .zip and no .xlsx that can be read") from None
    except UnreadableFile:
        closing.close()
        raise


def _open_folder(path: Path) -> Source:
    closing = ExitStack()
    tables: dict[str, Callable[[], Sheet]] = {}
    strangers: list[str] = []
    files = sorted(p for p in path.iterdir() if p.is_file() and not p.name.startswith("."))
    if len(files) > MOST_FILES:
        raise UnreadableFile(f"There are more than {MOST_FILES} files in it")
    if sum(p.stat().st_size for p in files) > MOST_BYTES:
        raise UnreadableFile(f"It holds more than {MOST_BYTES >> 20:,} MB")
    for file in files:
        _note(file.name, tables, strangers, lambda file=file: closing.enter_context(file.open("rb")))  # type: ignore[misc]
    return Source(closing, tables, strangers)


def _open_archive(archive: zipfile.ZipFile, entries: list[str], closing: ExitStack) -> Source:
    tables: dict[str, Callable[[], Sheet]] = {}
    strangers: list[str] = []

    def opener(entry: str) -> Callable[[], IO[bytes]]:
        return lambda: io.BufferedReader(_Bounded(closing.enter_context(archive.open(entry))))

    for entry in entries:
        name = PurePosixPath(entry).name
        if not name.startswith(".") and "__MACOSX" not in entry:
            _note(name, tables, strangers, opener(entry))
    return Source(closing, tables, strangers)


def _open_workbook(file: IO[bytes], closing: ExitStack) -> Source:
    tables: dict[str, Callable[[], Sheet]] = {}
    strangers: list[str] = []
    for sheet in read_workbook(file):
        name = _table_name(sheet.name)
        if name in BY_NAME:
            if name in tables:
                raise UnreadableFile(f"It has the sheet {name} twice")
            tables[name] = lambda sheet=sheet, name=name: Sheet(name, sheet.rows)  # type: ignore[misc]
        else:
            strangers.append(sheet.name[:60])
    return Source(closing, tables, strangers)


def _note(
    file_name: str,
    tables: dict[str, Callable[[], Sheet]],
    strangers: list[str],
    opener: Callable[[], IO[bytes]],
) -> None:
    stem, dot, ending = file_name.lower().rpartition(".")
    name = _table_name(stem)
    if dot and f".{ending}" in _ENDINGS and name in BY_NAME:
        if name in tables:
            raise UnreadableFile(f"It has the table {name} twice")
        tables[name] = lambda: read_text_sheet(name, opener())  # type: ignore[arg-type]
    elif file_name.lower() not in _BESIDE:
        strangers.append(file_name[:60])


def _table_name(name: str) -> str:
    return name.strip().lower().replace(" ", "_").replace("-", "_")


def _checked(archive: zipfile.ZipFile) -> list[str]:
    """The names of what is in an archive, none of which leads out of it or is beyond all bounds."""
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    if len(entries) > MOST_FILES:
        raise UnreadableFile(f"There are more than {MOST_FILES} files in it")
    names = set()
    for entry in entries:
        parts = PurePosixPath(entry.filename.replace("\\", "/")).parts
        if ".." in parts or entry.filename.startswith(("/", "\\")) or ":" in entry.filename:
            raise UnreadableFile("A name in it leads out of the folder; nothing was read")
        if entry.filename in names:
            raise UnreadableFile("It has two files of one name")
        if entry.flag_bits & 1:
            raise UnreadableFile("It is locked by a password; send it without one")
        names.add(entry.filename)
    if sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise UnreadableFile(f"Unpacked it would be more than {MOST_BYTES >> 20:,} MB; nothing was read")
    return [entry.filename for entry in entries]


class _Bounded(io.RawIOBase):
    """A stream that ends in an error where it is longer than anything may be, whatever the archive has said
    of its length."""

    def __init__(self, stream: IO[bytes]) -> None:
        super().__init__()
        self._stream = stream
        self._left = MOST_BYTES

    def readable(self) -> bool:
        """It is (io)."""
        return True

    def readinto(self, buffer: bytearray | memoryview) -> int:  # type: ignore[override]
        """Read some (io)."""
        try:
            piece = self._stream.read(len(buffer))
        except (zipfile.BadZipFile, EOFError):
            raise UnreadableFile("is damaged; pack it again") from None
        self._left -= len(piece)
        if self._left < 0:
            raise UnreadableFile(f"is more than {MOST_BYTES >> 20:,} MB")
        buffer[: len(piece)] = piece
        return len(piece)
