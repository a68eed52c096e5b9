"""The demo: an invented college on the first morning of registration, generated from one seed."""
