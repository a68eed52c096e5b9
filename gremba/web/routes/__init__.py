"""The API's routes, one file a subject."""
