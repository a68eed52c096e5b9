"""Routes of the cart, submissions and the schedule."""
