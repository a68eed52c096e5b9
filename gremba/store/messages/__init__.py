"""Messages, and those that are sent by email."""
