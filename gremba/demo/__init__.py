"""The demo: an invented college on the first morning of registration, made from one seed."""
