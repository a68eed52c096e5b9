"""What a student can do instead of a change that is blocked."""
