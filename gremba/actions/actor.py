"""Who acts: the student, or an office on the student's behalf."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Actor:
    """A person who is signed in.

    Attributes:
        role: "student", "advisor" and so on.
    """

    id: int
    name: str
    role: str = "student"

    @property
    def acts_for_another(self) -> bool:
        """Whether what they do for a student is to be kept with their name."""
        return self.role != "student"

    @property
    def signature(self) -> str:
        """The name as confirmations have it."""
        return f"{self.name}, {self.role}" if self.acts_for_another else self.name

    @property
    def kept_id(self) -> int | None:
        """The id to be kept with what is done; None where the student does it."""
        return self.id if self.acts_for_another else None


@dataclass(frozen=True, slots=True)
class SubjectStudent:
    """Whom an action is about, and who does it."""

    student_id: int
    by: Actor

    @classmethod
    def alone(cls, student_id: int, name: str = "") -> SubjectStudent:
        """A student who does it."""
        return cls(student_id, Actor(student_id, name))
