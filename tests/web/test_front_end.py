"""The built front end, as it is served."""

import gzip
import re

import pytest
from fastapi.testclient import TestClient

from nebrel.web.app import STATIC

pytestmark = pytest.mark.skipif(not STATIC.is_dir(), reason="the front end is not built")


def test_every_path_is_the_page_and_what_it_needs_is_kept(client: TestClient) -> None:
    pages = [client.get(path) for path in ("/", "/pieces/1", "/nowhere")]
    assert len({page.text for page in pages}) == 1
    assert {page.headers["cache-control"] for page in pages} == {"no-cache"}
    assets = re.findall(r'"(/assets/[^"]+)"', pages[0].text)
    assert len(assets) >= 2
    for asset in assets:
        answer = client.get(asset)
        assert answer.status_code == 200
        assert "immutable" in answer.headers["cache-control"]
        assert answer.headers["content-encoding"] == "gzip"
    assert client.get("/assets/nothing.js").status_code == 404
    assert client.get("/assets/..%2f..%2fapp.py").status_code == 404


def test_the_first_load_stays_light() -> None:
    weighed = {
        path.name: len(gzip.compress(path.read_bytes()))
        for path in (STATIC / "assets").iterdir()
        if "-ext-" not in path.name  # letters that few names have
    }
    assert any(name.startswith("Bench") for name in weighed)  # the shelf does without
    assert 50_000 < sum(weighed.values()) < 700_000, weighed
    shelf = sum(size for name, size in weighed.items() if not name.startswith("Bench"))
    assert shelf < 300_000, weighed
