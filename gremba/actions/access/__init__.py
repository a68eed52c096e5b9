"""Sessions and the audit log."""
