"""Tests of waitlists."""
