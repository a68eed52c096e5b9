"""Requests to people: asking, answering, and what happens to a request by itself."""
