"""Waitlists: their policy and deadlines, promotion, trades and chances."""
