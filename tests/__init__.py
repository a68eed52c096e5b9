"""The tests of everything."""

import os

from hypothesis import settings

from tests.support.examples import FAST, FEW, MANY

# Machines are shared: how long one example takes says nothing.
settings.register_profile("working", deadline=None, max_examples=FEW)
settings.register_profile("whole", deadline=None, max_examples=MANY)
settings.load_profile("working" if FAST in os.environ else "whole")
