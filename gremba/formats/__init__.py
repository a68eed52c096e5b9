"""Ways in and out for data."""
