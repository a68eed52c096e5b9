"""Tests of the decision, the cart and submissions."""
