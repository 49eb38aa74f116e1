"""``python -m ezvar``."""

import sys

from ezvar.cli import main

sys.exit(main())
