"""Settings for all tests."""

from hypothesis import settings

settings.register_profile("pravix", deadline=None)
settings.load_profile("pravix")
