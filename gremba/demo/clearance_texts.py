"""What the demo's students read, answer and agree to."""

from __future__ import annotations

from typing import Any

CLEARANCE_TEXTS: dict[str, Any] = {
    "agreement": [
        "Registering for a section is a promise to take it and to pay for it.",
        "A seat given up by the drop-by day leaves no trace; after it the record shows a W, and "
        "what has to be paid follows the refund steps of its session.",
        "Whoever has not paid by the due date may lose the seats held.",
        "Notices of the college go to your college address. What has been sent there counts as read.",
    ],
    "survey_about": "Three questions about housing, work and tools.",
    "survey": [
        {
            "key": "housing",
            "text": "Where will you live during the term?",
            "options": ["In a college house", "Within an hour of Hillfoot", "Further away"],
        },
        {
            "key": "work",
            "text": "How many hours a week will you work beside your studies?",
            "options": ["None", "Up to ten", "Ten to twenty", "More than twenty"],
        },
        {
            "key": "tools",
            "text": "Do you have boots and a coat for work outside?",
            "options": ["Yes", "I will get them", "I need help with that"],
        },
    ],
    "orientation_about": "Three pages about the campuses, safety, and whom to ask.",
    "orientation": [
        "Three campuses: Hillfoot has the teaching rooms, Millrace the workshops, Skyfield the "
        "orchards, pasture and hives. Between them leave 15, 25 or 30 minutes.",
        "Workshops and fields: closed shoes, hair tied back, and nobody works a machine alone.",
        "When something goes wrong: your advisor first, then the office that the notice names. A no "
        "here always says whom to ask.",
    ],
}
