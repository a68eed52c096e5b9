"""The exchange folder: cells, rows and files."""
