"""The tests; ``./test`` runs them."""
