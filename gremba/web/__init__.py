"""The web interface: routes, schemas, sessions; it serves the built front end."""
