"""Builds timetables and keeps drafts of them."""
