"""Write docs/interchange.schema.json anew, from what the program writes.

python tools/make_schema.py
"""

import json
from pathlib import Path

from ezvar.core.review import decisions_schema

FILE = Path(__file__).resolve().parent.parent / "docs" / "interchange.schema.json"

if __name__ == "__main__":
    FILE.write_text(json.dumps(decisions_schema(), indent=1) + "\n")
