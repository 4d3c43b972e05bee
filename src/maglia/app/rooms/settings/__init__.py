"""Settings: every default and custom on one page."""
