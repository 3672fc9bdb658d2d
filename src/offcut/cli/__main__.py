"""Runs the command line as `python -m offcut.cli`."""

import sys

from offcut.cli.main import main

sys.exit(main())
