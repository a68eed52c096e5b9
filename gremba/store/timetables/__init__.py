"""Timetable drafts and demand."""
