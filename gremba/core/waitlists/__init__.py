"""Waitlists: policy, deadlines, promotion, trades and chances."""
