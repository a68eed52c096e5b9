"""The rules of registration in plain typed Python: no database, no web, no clock of its own."""
