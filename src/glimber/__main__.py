"""``python -m glimber`` is the command line."""

from glimber.cli import main

main()
