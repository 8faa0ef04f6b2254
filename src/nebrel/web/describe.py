"""Writes the OpenAPI description that the front end's types are generated from."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from nebrel.web.app import create_app

if __name__ == "__main__":
    Path(sys.argv[1]).write_text(json.dumps(create_app(None).openapi(), indent=1))
