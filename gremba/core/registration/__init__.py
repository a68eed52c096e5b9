"""The decision on a cart: what each change does, which rules speak, and what is said of it."""
