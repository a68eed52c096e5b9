"""Sessions, sign-ins, passwords and the audit log."""
