"""Tests of timetables."""
