"""Asking for timetables, and keeping drafts."""
