"""The exchange folder: its tables, their cells, and what can be wrong with them."""
