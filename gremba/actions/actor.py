"""Who acts: the student, or an office on the student's behalf."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Actor:
    """A signed-in person.

    Attributes:
        role: "student", "advisor" and so on.
    """

    id: int
    name: str
    role: str = "student"

    @property
    def acts_for_another(self) -> bool:
        """Whether to record the name with what is done for a student."""
        return self.role != "student"

    @property
    def signature(self) -> str:
        """The name on confirmations."""
        return f"{self.name}, {self.role}" if self.acts_for_another else self.name

    @property
    def kept_id(self) -> int | None:
        """The person's id to record; None if the student acts."""
        return self.id if self.acts_for_another else None


@dataclass(frozen=True, slots=True)
class SubjectStudent:
    """The student an action is about, and who performs it."""

    student_id: int
    by: Actor

    @classmethod
    def alone(cls, student_id: int, name: str = "") -> SubjectStudent:
        """A student who acts for themselves."""
        return cls(student_id, Actor(student_id, name))
