"""Giving freed seats: offers, promotions and trades."""
