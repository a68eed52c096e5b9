"""Stages the tables of an exchange folder, compares them with what is stored, and merges them."""
