"""Stand-ins for what a college has of its own: sign-in, and in the demo the clock."""
