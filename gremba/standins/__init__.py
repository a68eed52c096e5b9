"""Stand-ins for what a college brings: sign-in, payment, mail, and in the demo the clock."""
