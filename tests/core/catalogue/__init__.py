"""Tests of terms, sections and searching."""
