"""Routes of waitlists."""
