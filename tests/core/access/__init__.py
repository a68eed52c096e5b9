"""Tests of sign-in, sessions and the audit log."""
