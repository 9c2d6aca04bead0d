"""Settings for all tests, and the folders that many share."""

from hypothesis import settings
from made_folders import awkward, rough, several

__all__ = ["awkward", "rough", "several"]

settings.register_profile("pravix", deadline=None, max_examples=60)
settings.load_profile("pravix")
