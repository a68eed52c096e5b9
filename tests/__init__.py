"""The tests of everything."""

from hypothesis import settings

# Machines are shared: how long one example takes says nothing.
settings.register_profile("shared machines", deadline=None)
settings.load_profile("shared machines")
