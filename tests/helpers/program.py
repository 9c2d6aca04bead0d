"""Where the installed program is."""

import sys
from pathlib import Path

PROGRAM = Path(sys.executable).with_name("pravix")
