"""The tests. Property tests have no deadline: a slow machine is no fault; each run tries the same examples."""

from hypothesis import settings

settings.register_profile("steady", deadline=None, derandomize=True)
settings.load_profile("steady")
