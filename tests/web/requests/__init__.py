"""Tests of what every request passes."""
