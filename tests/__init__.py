"""The tests of everything."""

from hypothesis import HealthCheck, settings

from tests.support.examples import MANY, how_many

# Machines are shared: how long one example takes says nothing.
settings.register_profile(
    "gremba", deadline=None, max_examples=how_many(MANY), suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("gremba")
