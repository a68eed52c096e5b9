"""Messages to students, and those that are mailed."""
