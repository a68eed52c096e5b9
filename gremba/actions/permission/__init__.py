"""Permission requests: asking, answering, and what happens to a request over time."""
