"""Starting everything on one machine: the private PostgreSQL cluster and the server."""
