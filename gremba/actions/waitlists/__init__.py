"""Fills freed seats from waitlists: offers, automatic promotion and trades."""
