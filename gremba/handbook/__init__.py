"""Pages of the docs that are made from the code."""
