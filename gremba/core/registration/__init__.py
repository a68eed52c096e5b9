"""The decision on a cart: what each change does, what the rules say, and the outcome."""
