"""Opens an exchange folder that comes as a folder, a .zip or an .xlsx file."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack
from pathlib import Path, PurePosixPath
from types import TracebackType
from typing import IO

from typing_extensions import override

from gremba.core.exchange.tables import BY_NAME
from gremba.formats.exchange.sheets import Sheet, UnreadableFile
from gremba.formats.exchange.text_sheet import read_text_sheet
from gremba.formats.exchange.workbook import read_workbook

MOST_FILES = 300
MOST_BYTES = 1 << 30
"""Of all that is read of one folder, unpacked: ten times what a college of 50,000 has."""

_ENDINGS = (".csv", ".txt", ".tsv")
_OF_A_SHEET = 100_000
_BESIDE = ("datapackage.json", "readme.md", "readme.txt")


class _Found:
    """The files of a folder."""

    def __init__(self) -> None:
        self.tables: dict[str, Callable[[], Sheet]] = {}
        self.sizes: dict[str, int] = {}
        self.strangers: list[str] = []

    def note(self, file_name: str, size: int, opener: Callable[[], IO[bytes]]) -> None:
        """Add a file."""
        stem, dot, ending = file_name.lower().rpartition(".")
        name = _table_name(stem)
        if dot and f".{ending}" in _ENDINGS and name in BY_NAME:
            if name in self.tables:
                raise UnreadableFile(f"It has the table {name} twice")
            self.tables[name] = lambda: read_text_sheet(name, opener())  # type: ignore[arg-type]
            self.sizes[name] = size
        elif file_name.lower() not in _BESIDE:
            self.strangers.append(file_name[:60])


class Source:
    """An open exchange folder. Use it in a ``with``.

    Attributes:
        strangers: files in it that are no table of the folder.
        sizes: of its tables, so that it can be told how far reading has come: octets, or where they are
            not known what stands for them.
    """

    def __init__(self, closing: ExitStack, found: _Found) -> None:
        self._closing = closing
        self._tables = found.tables
        self.strangers = tuple(found.strangers)
        self.sizes: Mapping[str, int] = found.sizes

    def __enter__(self) -> Source:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._closing.close()

    def sheets(self) -> Iterator[Sheet]:
        """Its tables, each after those it refers to."""
        for name in BY_NAME:
            if name in self._tables:
                yield self._tables[name]()


def open_source(path: Path) -> Source:
    """Open a folder, an archive, or a workbook.

    Raises:
        UnreadableFile: it is none of these, or one that would do harm.
    """
    if path.is_dir():
        return _open_folder(path)
    if not path.is_file():
        raise UnreadableFile("There is no folder and no file of that name")
    if path.suffix.lower() in _ENDINGS:
        closing = ExitStack()
        found = _Found()
        found.note(path.name, path.stat().st_size, lambda: closing.enter_context(path.open("rb")))
        return Source(closing, found)
    return open_packed(path.open("rb"))


def of_rows(tables: Mapping[str, list[list[str]]]) -> Source:
    """The same from rows in memory, by table, headings first."""
    found = _Found()

    def opener(name: str, rows: list[list[str]]) -> Callable[[], Sheet]:
        return lambda: Sheet(name, iter(list(enumerate(rows, 1))))

    for name, rows in tables.items():
        found.tables[name] = opener(name, rows)
        found.sizes[name] = len(rows)
    return Source(ExitStack(), found)


def open_packed(file: IO[bytes]) -> Source:
    """Open an archive or a workbook; the source closes it.

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
    except UnreadableFile:
        closing.close()
        raise
    except Exception:
        # Each way in which an archive can be damaged has an error of its own.
        closing.close()
        raise UnreadableFile(
            "This is no .zip and no .xlsx that can be read; pack the tables anew, as one .zip or one .xlsx"
        ) from None


def _open_folder(path: Path) -> Source:
    closing = ExitStack()
    found = _Found()
    files = sorted(p for p in path.iterdir() if p.is_file() and not p.name.startswith("."))
    if len(files) > MOST_FILES:
        raise UnreadableFile(f"There are more than {MOST_FILES} files in it")
    if sum(p.stat().st_size for p in files) > MOST_BYTES:
        raise UnreadableFile(f"It holds more than {MOST_BYTES >> 20:,} MB")

    def opener(file: Path) -> Callable[[], IO[bytes]]:
        return lambda: closing.enter_context(file.open("rb"))

    for file in files:
        found.note(file.name, file.stat().st_size, opener(file))
    return Source(closing, found)


def _open_archive(archive: zipfile.ZipFile, entries: list[str], closing: ExitStack) -> Source:
    found = _Found()

    def opener(entry: str) -> Callable[[], IO[bytes]]:
        return lambda: io.BufferedReader(_Bounded(closing.enter_context(_opened(archive, entry))))

    for entry in entries:
        name = PurePosixPath(entry).name
        if not name.startswith(".") and "__MACOSX" not in entry:
            found.note(name, archive.getinfo(entry).file_size, opener(entry))
    return Source(closing, found)


def _opened(archive: zipfile.ZipFile, entry: str) -> IO[bytes]:
    try:
        return archive.open(entry)
    except Exception:
        raise UnreadableFile(f"The file {entry[:60]} in it is damaged; pack it again") from None


def _open_workbook(file: IO[bytes], closing: ExitStack) -> Source:
    found = _Found()
    for sheet in read_workbook(file):
        name = _table_name(sheet.name)
        if name in BY_NAME:
            if name in found.tables:
                raise UnreadableFile(f"It has the sheet {name} twice")
            found.tables[name] = lambda sheet=sheet, name=name: Sheet(name, sheet.rows)  # type: ignore[misc]
            # A workbook does not say how much is in a sheet until it has been read.
            found.sizes[name] = _OF_A_SHEET
        else:
            found.strangers.append(sheet.name[:60])
    return Source(closing, found)


def _table_name(name: str) -> str:
    return name.strip().lower().replace(" ", "_").replace("-", "_")


def _checked(archive: zipfile.ZipFile) -> list[str]:
    """The names in an archive, checked for path traversal and size limits."""
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
    """A stream that fails beyond the size limit, whatever the archive declares."""

    def __init__(self, stream: IO[bytes]) -> None:
        super().__init__()
        self._stream = stream
        self._left = MOST_BYTES

    @override
    def readable(self) -> bool:
        return True

    @override
    def readinto(self, buffer: bytearray | memoryview) -> int:  # type: ignore[override]
        try:
            piece = self._stream.read(len(buffer))
        except Exception:
            raise UnreadableFile("is damaged; pack it again") from None
        self._left -= len(piece)
        if self._left < 0:
            raise UnreadableFile(f"is more than {MOST_BYTES >> 20:,} MB")
        buffer[: len(piece)] = piece
        return len(piece)
