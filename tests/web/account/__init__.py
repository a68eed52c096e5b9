"""Tests of the account and payments."""
