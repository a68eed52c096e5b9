"""Measurements, side by side in one run; never part of the tests."""
