"""The people of the demo one can sign in as."""

from __future__ import annotations

from dataclasses import dataclass

COLLEGE = "Brindlemere College of Land and Craft"
PASSWORD = "orchard-gate"
"""Shown on the sign-in page of the demo, and used nowhere else."""


@dataclass(frozen=True)
class Player:
    """A person to sign in as."""

    username: str
    full_name: str
    who: str
    situation: str


WREN = Player(
    "wren",
    "Wren Halloway",
    "third year",
    "Clear, window open since 08:00, half a cart gathered. The short way through.",
)
TOBIN = Player(
    "tobin",
    "Tobin Marsh",
    "second year",
    "Window opens at 09:00; a fee hold, an agreement and his contact details stand in "
    "the way, and a course in progress carries others.",
)
ISOLDE = Player(
    "isolde",
    "Isolde Brack",
    "fourth year",
    "A seat is offered to her until 10:52, and her schedule is full. A wish clashes with a class she holds.",
)
ODO = Player(
    "odo",
    "Odo Fennick",
    "first year",
    "Window opens tomorrow; not released by his advisor, orientation open, on probation "
    "with 13 credits at the most.",
)
JUNIPER = Player(
    "juniper",
    "Juniper Sallow",
    "second year",
    "Works Tuesday and Thursday afternoons. Knows her courses and has chosen no section yet; her "
    "window opens at 10:00.",
)
BRAM = Player(
    "bram",
    "Bram Oakes",
    "third year",
    "Registered, and nothing of it paid: aid is promised, and the rest could be paid in parts.",
)
CAST = (WREN, TOBIN, ISOLDE, ODO, JUNIPER)

STUDENTS = (*CAST, BRAM)
"""Bram is one of the crowd, who has registered like anybody."""

OFFICES = (
    Player(
        "maud",
        "Maud Pellow",
        "registrar",
        "Requests beyond what a room holds, and mail that did not arrive.",
    ),
    Player(
        "idris",
        "Idris Quill",
        "advisor",
        "His day: whom to release, whose cart would be stopped. Odo waits for him.",
    ),
    Player(
        "petra",
        "Petra Lunn",
        "instructor",
        "Three students have asked her for something; rosters, and permission codes to give out.",
    ),
    Player(
        "cass",
        "Cass Orrin",
        "cashier",
        "Who owes what and why, payments, and the seats that are lost on a due date.",
    ),
)
"""The offices' people; ``who`` is their role."""
