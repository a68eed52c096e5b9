"""Registration windows: whether one is open, and how they are assigned."""
