"""Tests of imports and exports."""
