"""Writes what the front end is generated from: the description of the API, and fresh steps."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from nebrel.core.recipe.defaults import fresh_steps
from nebrel.web.app import create_app

if __name__ == "__main__":
    api, fresh = map(Path, sys.argv[1:])
    api.write_text(json.dumps(create_app(None).openapi(), indent=1))
    fresh.write_text(json.dumps(fresh_steps(), indent=1))
