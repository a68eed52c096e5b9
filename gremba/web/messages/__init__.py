"""The stream that keeps open pages current."""
