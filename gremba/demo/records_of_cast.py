"""Transcripts of the cast."""

from __future__ import annotations

Entry = tuple[str, str | None]
"""Course and grade; None while it is in progress."""

RECORDS: dict[str, dict[str, tuple[Entry, ...]]] = {
    "wren": {
        "Harvest 2024": (
            ("SOIL 110", "B+"),
            ("MATH 100", "A-"),
            ("WRIT 101", "B"),
            ("MAPS 110", "A"),
            ("SEMR 101", "A"),
        ),
        "Thaw 2025": (("WSHD 110", "B"), ("PLNT 110", "B+"), ("HIST 110", "A-"), ("MATH 120", "B")),
        "Harvest 2025": (("SOIL 210", "B+"), ("SOIL 240", "B"), ("CHEM 115", "B-"), ("SURV 110", "A")),
        "Thaw 2026": (("WSHD 210", "B"), ("MATH 130", "B+"), ("MAPS 210", "A-"), ("WRIT 201", "A")),
        "Harvest 2026": (("WSHD 130", "B+"), ("PLNT 230", "A"), ("LAWS 110", "B"), ("APIC 110", "A")),
        "Thaw 2027": (("PLNT 205", None), ("HIST 210", None), ("ECON 110", None), ("MAPS 260", None)),
    },
    "tobin": {
        "Harvest 2025": (("APIC 110", "B"), ("ORCH 105", "B+"), ("WRIT 101", "C+"), ("MATH 100", "B")),
        "Thaw 2026": (("PLNT 110", "B-"), ("FERM 110", "A-"), ("HIST 150", "B"), ("APIC 115", "A")),
        "Harvest 2026": (("ORCH 215", "C+"), ("APIC 225", "B"), ("ECON 110", "B"), ("SOIL 110", "D+")),
        "Thaw 2027": (("APIC 210", None), ("FERM 230", None), ("WSHD 110", None), ("MATH 120", None)),
    },
    "isolde": {
        "Harvest 2023": (
            ("CERM 105", "A-"),
            ("TXTL 101", "B+"),
            ("WRIT 101", "B"),
            ("MATH 100", "B-"),
            ("SEMR 102", "A"),
        ),
        "Thaw 2024": (("BSKT 101", "A"), ("TXTL 145", "B+"), ("CHEM 115", "B"), ("HIST 150", "A-")),
        "Harvest 2024": (("CERM 215", "A"), ("CERM 240", "B+"), ("BSKT 210", "A"), ("PLNT 110", "B")),
        "Thaw 2025": (("TXTL 220", "B+"), ("CHEM 220", "B-"), ("WRIT 201", "A-"), ("ECON 110", "B")),
        "Harvest 2025": (("CERM 310", "A"), ("TXTL 255", "A-"), ("ECON 160", "B+"), ("HIST 201", "A")),
        "Thaw 2026": (("TXTL 300", "A-"), ("ECON 210", "B"), ("CERM 350", "A"), ("HIST 210", "B+")),
        "Harvest 2026": (("TXTL 340", "B"), ("SMTH 101", "A-"), ("LAWS 110", "B+"), ("BSKT 330", "A")),
        "Thaw 2027": (("CHEM 330", None), ("ECON 245", None), ("MAPS 140", None), ("SMTH 130", None)),
    },
    "odo": {
        "Harvest 2026": (("SOIL 140", "D"), ("BAKE 120", "C-"), ("HIST 110", "D+"), ("FARM 130", "F")),
        "Thaw 2027": (("MAPS 110", None), ("ORCH 105", None), ("BSKT 101", None)),
    },
    "juniper": {
        "Harvest 2025": (("SOIL 110", "B"), ("APIC 110", "B+"), ("WRIT 101", "A-"), ("MATH 100", "B")),
        "Thaw 2026": (("ORCH 105", "B+"), ("FERM 110", "A"), ("HIST 110", "B"), ("MAPS 110", "B-")),
        "Harvest 2026": (("LAWS 110", "B"), ("WSHD 110", "B+"), ("APIC 115", "A"), ("SOIL 140", "B")),
        "Thaw 2027": (("APIC 210", None), ("ORCH 215", None), ("WRIT 120", None), ("CHEM 115", None)),
    },
}

PROGRAM_AND_YEAR = {
    "wren": ("Land stewardship", 3),
    "tobin": ("Orchard and hive", 2),
    "isolde": ("Clay and cloth", 4),
    "odo": ("Dairy and bakehouse", 1),
    "juniper": ("Orchard and hive", 2),
}
