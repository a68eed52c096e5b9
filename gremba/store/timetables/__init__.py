"""Drafts of timetables, and which courses are in demand."""
