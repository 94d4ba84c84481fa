"""Run Molvik with ``python -m molvik``."""

import sys

from molvik.cli import main

if __name__ == "__main__":
    sys.exit(main())
