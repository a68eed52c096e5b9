"""The front end's units: what needs no browser to be tried."""
