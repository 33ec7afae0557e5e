"""Nothing in tests/sizing needs Django; see tests/kyrtos and tests/browser for what does."""

from hypothesis import settings

# This machine is shared, and may be three times slower at times.
settings.register_profile("any machine", deadline=None)
settings.load_profile("any machine")
