"""Tests of permission."""
