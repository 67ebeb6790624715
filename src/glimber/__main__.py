"""``python -m glimber`` is the command line."""

from glimber.cli.main import main

main()
