"""What a student can do about a blocked change."""
