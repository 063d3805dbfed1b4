"""``python -m gondrel`` is the program."""

import sys

from gondrel.cli.main import main

if __name__ == "__main__":
    sys.exit(main())
