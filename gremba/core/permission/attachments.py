"""Recognizes the files that may be attached to a request by their content.

Sources, from memory: ISO 32000-2, 7.5 (a PDF begins with %PDF- and ends with %%EOF); PNG, third edition, 5.2
and 5.3 (signature, chunks with a CRC, IHDR first, IEND last); JPEG, ITU-T T.81 Annex B (begins with SOI, ends
with EOI).
"""

from __future__ import annotations

import zlib

from gremba.core.plain_text import has_odd_signs
from gremba.core.states import FileType

MOST_OCTETS = 2 * 1024 * 1024
MOST_FILES = 3
"""Files of one request."""
MOST_NAME = 120

_ENDINGS = {
    "pdf": FileType.PDF,
    "png": FileType.PNG,
    "jpg": FileType.JPEG,
    "jpeg": FileType.JPEG,
}
_PNG = b"\x89PNG\r\n\x1a\n"


def type_of(content: bytes) -> FileType | None:
    """A file's type by its content; None if it may not be attached or is incomplete."""
    if content.startswith(b"%PDF-") and b"%%EOF" in content[-1024:]:
        return FileType.PDF
    if content.startswith(_PNG) and _is_whole_png(content):
        return FileType.PNG
    if content.startswith(b"\xff\xd8\xff") and content.rstrip(b"\x00").endswith(b"\xff\xd9"):
        return FileType.JPEG
    return None


def _is_whole_png(content: bytes) -> bool:
    at, kinds = len(_PNG), []
    while at + 12 <= len(content):
        length = int.from_bytes(content[at : at + 4], "big")
        kind, end = content[at + 4 : at + 8], at + 8 + length
        if end + 4 > len(content):
            return False
        if zlib.crc32(content[at + 4 : end]) != int.from_bytes(content[end : end + 4], "big"):
            return False
        kinds.append(kind)
        at = end + 4
        if kind == b"IEND":
            break
    return kinds[:1] == [b"IHDR"] and b"IDAT" in kinds and kinds[-1] == b"IEND" and at == len(content)


def plain_name(name: str) -> str:
    """A file's name without folders and invisible characters, shortened but with its extension."""
    last = name.replace("\\", "/").rpartition("/")[2].strip().lstrip(".")
    last = "".join(c for c in last if not has_odd_signs(c) and c not in '\n\t"<>:|?*')
    stem, dot, ending = last.rpartition(".")
    if len(last) > MOST_NAME and dot and len(ending) < 10:
        return f"{stem[: MOST_NAME - len(ending) - 1]}.{ending}"
    return last[:MOST_NAME]


def why_not_attached(name: str, content: bytes) -> str:
    """Why a file cannot be attached, and what to do; "" if it can."""
    if not content:
        return "The file is empty. Choose another one."
    if len(content) > MOST_OCTETS:
        return "The file has more than 2 MB. Make it smaller, or attach a part of it."
    found = type_of(content)
    said = _ENDINGS.get(name.rpartition(".")[2].lower())
    if said is None:
        return "Attach a PDF or a picture: its name ends in .pdf, .png or .jpg."
    if found is None:
        return f"“{name}” is no {_NAMES[said]}, whatever its name says, or it is not whole. Save it anew."
    if found is not said:
        return f"“{name}” is a {_NAMES[found]}. Give it the ending that fits, and attach it again."
    return ""


_NAMES = {FileType.PDF: "PDF", FileType.PNG: "PNG picture", FileType.JPEG: "JPEG picture"}
