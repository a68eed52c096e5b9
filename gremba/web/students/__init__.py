"""Routes about students, for themselves and for offices."""
