"""The rules of registration in plain typed Python, without database, web or clock."""
