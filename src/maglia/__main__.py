"""`python -m maglia`."""

from maglia.cli import main

main()
