"""Beyond loopback: who does not show the token sees the page that asks for it, and no more."""

import stat
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from nebrel.store import Store
from nebrel.web.app import create_app
from nebrel.web.entry import token_of

TOKEN = "made-up-" * 4


@pytest.fixture(scope="module")
def beyond(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    app = create_app(Store(tmp_path_factory.mktemp("beyond")), "0.0.0.0", token=TOKEN)
    with TestClient(app, base_url="http://workshop.local:8765", follow_redirects=False) as opened:
        yield opened


@pytest.fixture
def stranger(beyond: TestClient) -> TestClient:
    beyond.cookies.clear()
    return beyond


@pytest.mark.parametrize(
    "path", ["/", "/pieces/1", "/assets/index.js", "/favicon.svg", "/?token=guess", "/?token="]
)
def test_a_stranger_is_asked(stranger: TestClient, path: str) -> None:
    answer = stranger.get(path)
    assert answer.status_code == 401
    assert '<input id="token"' in answer.text
    assert "script" not in answer.text
    assert ("not the token" in answer.text) == ("token=" in path)
    assert answer.headers["cache-control"] == "no-store"
    assert answer.headers["x-frame-options"] == "DENY"
    assert "set-cookie" not in answer.headers


def test_a_stranger_gets_nothing_of_the_api(stranger: TestClient) -> None:
    for path in ("/api/pieces", "/api/openapi.json", f"/api/pieces?token={TOKEN}"):
        answer = stranger.get(path)
        assert answer.status_code == 401
        assert answer.json()["error"]["kind"] == "refused"
    assert stranger.post(f"/?token={TOKEN}").status_code == 401
    for wrong in ("Bearer guess", f"Basic {TOKEN}", "Bearer", "Bearer ÿ"):
        given = {"Authorization": wrong.encode("latin-1")}
        assert stranger.get("/api/pieces", headers=given).status_code == 401
    assert stranger.get("/api/pieces", headers={"Cookie": 'a="'}).status_code == 401


def test_the_link_leads_in_and_is_remembered(stranger: TestClient) -> None:
    answer = stranger.get(f"/pieces/1?look=light&token={TOKEN}")
    assert (answer.status_code, answer.headers["location"]) == (303, "/pieces/1?look=light")
    kept = answer.headers["set-cookie"].lower()
    assert "httponly" in kept
    assert "samesite=lax" in kept
    assert stranger.get("/api/pieces").status_code == 200
    stranger.cookies.clear()
    given = {"Authorization": f"Bearer {TOKEN}"}
    assert stranger.get("/api/pieces", headers=given).status_code == 200


def test_the_link_leads_to_no_other_host(stranger: TestClient) -> None:
    for path in ("//elsewhere.example/", "/%2f/elsewhere.example"):
        where = stranger.get(f"http://workshop.local:8765{path}?token={TOKEN}")
        assert not where.headers.get("location", "/").startswith("//")


def test_a_folder_keeps_its_token_for_its_owner(tmp_path: Path) -> None:
    token = token_of(tmp_path)
    assert token_of(tmp_path) == token
    assert len(token) >= 32
    assert stat.S_IMODE((tmp_path / "token").stat().st_mode) == 0o600
    (tmp_path / "token").write_text("short")
    assert token_of(tmp_path) not in ("short", token)
