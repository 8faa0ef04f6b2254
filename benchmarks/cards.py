"""The shelf of 200 pieces with corrected pictures: how long it takes, and how many queries.

python benchmarks/cards.py
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from fastapi.testclient import TestClient
from sqlalchemy import event

from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store
from nebrel.web.app import create_app

PIECES = 200


def main() -> None:
    """Print the milliseconds of an answer and its queries, first and later."""
    ramp = np.tile(np.arange(64, dtype=np.uint8), (48, 1))
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        for number in range(PIECES):
            ramp[0, 0] = number
            data = cv2.imencode(".png", ramp)[1].tobytes()
            info = store.add_picture(data, f"{number}.png")
            crop = {"kind": "crop", "box": {"x": 2, "y": 2, "wide": 50, "tall": 40}}
            picture = {"sha256": info.sha256, "corrections": [crop]}
            store.create_piece(info, f"Piece {number}", load_recipe({"picture": picture}))
        asked: list[str] = []

        def note(*given: object) -> None:
            asked.append(str(given[2]))

        event.listen(store._engine, "before_cursor_execute", note)
        headers = {"host": "127.0.0.1:8765"}
        with TestClient(create_app(store), headers=headers) as client:
            while any(card.get("pending") for card in client.get("/api/pieces").json()):
                time.sleep(0.2)
            for _ in range(3):
                asked.clear()
                start = time.perf_counter()
                assert len(client.get("/api/pieces").json()) == PIECES
                spent = 1000 * (time.perf_counter() - start)
                print(f"{spent:6.1f} ms, {len(asked)} statements")


if __name__ == "__main__":
    main()
