"""The tests. Property tests have no deadline: a slow machine is no fault."""

from hypothesis import settings

settings.register_profile("steady", deadline=None)
settings.load_profile("steady")
