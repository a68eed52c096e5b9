"""Made-up names of people."""

from __future__ import annotations

import random
from collections.abc import Iterator

FIRST = """Alder Anwen Ashby Auberon Bay Beatrix Berit Bracken Briar Bryony Caedmon Calla Cato Cedany
Clover Corin Cyprian Dara Delphine Dorrit Eben Eira Elowen Emrys Esme Fenella Fergal Ferris Flint
Garnet Gorse Greer Gwendal Hale Hazel Heron Hollis Idony Ilse Imber Ines Ivo Jessamy Jory Juniper
Kestrel Kit Lark Leander Linnet Lorcan Lowen Mabyn Maren Marlow Merle Mica Morwen Nell Nerys
Oakley Olwen Orla Oswin Pascoe Perran Petroc Piers Posy Quentin Rafe Reed Rowan Rue Sable Saffron
Selwyn Senara Sorrel Tamsin Tansy Teasel Thea Torin Ula Verity Vesper Wendell Wilmot Yarrow
Ysolt Zennor""".split()

LAST_HEAD = """Ald Ash Bar Beck Bram Bur Cald Clay Cop Crag Dale Ding Elm Fair Fen Fern Gar Gild
Hal Har Hawk Hazel Heath Hol Kel Kings Lang Lark Lin Mar Meer Mill Moss Nether North Oak Over Pen
Pil Quarr Rams Red Row Rush Sed Shep Stan Stone Thorn Tin Under Wal Wether Whit Wil Wind Wood
Yar""".split()
LAST_TAIL = """by bourne bridge brook bury combe cott croft dale den don field ford gate grave ham
hurst land ley low man mere more ridge row shaw stead stock stow ton wald ward well wick wood
worth""".split()


def names(rng: random.Random, taken: set[str]) -> Iterator[tuple[str, str]]:
    """Full names with unique user names."""
    used: set[str] = set()
    while True:
        first, last = rng.choice(FIRST), rng.choice(LAST_HEAD) + rng.choice(LAST_TAIL)
        full_name = f"{first} {last}"
        if full_name in taken:
            continue
        taken.add(full_name)
        username = base = f"{first}.{last}".casefold()
        number = 2
        while username in used:
            username, number = f"{base}{number}", number + 1
        used.add(username)
        yield username, full_name
