"""The web interface: routes, schemas and sessions. It also serves the built front end."""
