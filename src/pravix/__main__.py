"""Runs the command line for `python -m pravix`."""

from pravix.cli.main import main

if __name__ == "__main__":
    main()
