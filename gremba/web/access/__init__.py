"""Who may call what: sessions, the guard, passwords, the audit log."""
