"""The door: what comes from elsewhere, is too large, never ends, or is no text."""

import asyncio
import json
from collections.abc import Iterator
from copy import deepcopy
from typing import Any

import pytest
from fastapi.testclient import TestClient
from starlette.types import Message, Receive, Scope, Send

from nebrel.web.guard import Guard
from tests.pictures import png, ramp
from tests.recipes import art_of
from tests.web.test_api import bring


@pytest.mark.parametrize("value", ["[", "[::1", "http://[", "]", "127.0.0.1:x]", "\x7f"])
def test_malformed_hosts_and_origins_are_refused(client: TestClient, value: str) -> None:
    for header in ("Host", "Origin"):
        answer = client.get("/api/pieces", headers={header: value})
        assert answer.status_code == 403
        assert answer.json()["error"]["kind"] == "refused"


@pytest.mark.parametrize(
    "host",
    ["me@127.0.0.1", "127.0.0.1/elsewhere", "127.0.0.1?", "127.0.0.1#a", "localhost:80:80", ""],
)
def test_a_host_is_a_name_and_a_port(client: TestClient, host: str) -> None:
    assert client.get("/api/pieces", headers={"Host": host}).status_code in (400, 403)
    origin = {"Host": "127.0.0.1", "Origin": f"http://{host}"}
    assert client.get("/api/pieces", headers=origin).status_code == 403


@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_what_another_site_asks_for_is_refused(client: TestClient, site: str) -> None:
    for path in ("/api/pieces", "/api/wedge.stl"):
        assert client.get(path, headers={"Sec-Fetch-Site": site}).status_code == 403
    assert client.get("/", headers={"Sec-Fetch-Site": site}).status_code in (200, 503)  # a link
    for own in ("same-origin", "none"):
        assert client.get("/api/pieces", headers={"Sec-Fetch-Site": own}).status_code == 200


def test_every_answer_carries_the_headers_of_the_house(client: TestClient) -> None:
    for path in ("/", "/api/version", "/api/nothing", "/favicon.svg"):
        headers = client.get(path).headers
        policy = dict(part.split(" ", 1) for part in headers["content-security-policy"].split("; "))
        assert policy["script-src"] == "'self'"
        assert policy["frame-ancestors"] == "'none'"
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["x-frame-options"] == "DENY"
        assert headers["cross-origin-resource-policy"] == "same-origin"


def chunks(count: int, size: int = 1_000_000) -> Iterator[bytes]:
    for _ in range(count):
        yield b" " * size


def test_json_over_eight_megabytes_is_refused_while_it_streams(client: TestClient) -> None:
    headers = {"Content-Type": "application/json"}
    answer = client.post("/api/preview", content=chunks(9), headers=headers)
    assert answer.status_code == 413
    assert "8 MB" in answer.json()["error"]["why"]
    declared = client.post("/api/preview", content=b" " * 8_000_001, headers=headers)
    assert declared.status_code == 413


def test_an_oversized_upload_in_chunks_is_too_large(monkeypatch: pytest.MonkeyPatch) -> None:
    from fastapi import FastAPI, UploadFile

    app = FastAPI()

    @app.post("/api/file")
    def take(file: UploadFile) -> int:
        return len(file.file.read())

    app.add_middleware(Guard, host="127.0.0.1", most_bytes=3_000_000)

    def body(count: int) -> Iterator[bytes]:
        yield b'--b\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n\r\n'
        yield from chunks(count)
        yield b"\r\n--b--\r\n"

    headers = {"Content-Type": "multipart/form-data; boundary=b"}
    with TestClient(app, base_url="http://127.0.0.1") as small:
        assert small.post("/api/file", content=body(2), headers=headers).json() == 2_000_000
        answer = small.post("/api/file", content=body(4), headers=headers)
    assert answer.status_code == 413
    assert "3 MB" in answer.json()["error"]["why"]


def test_a_body_that_stalls_is_dropped() -> None:
    async def app(scope: Scope, receive: Receive, send: Send) -> None:
        body = b""
        while True:
            message = await receive()
            body += message.get("body", b"")
            if not message.get("more_body"):
                break
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": body})

    async def ask(parts: list[bytes]) -> list[Message]:
        waiting = [{"type": "http.request", "body": part, "more_body": True} for part in parts]
        if parts[-1] == b"end":
            waiting[-1]["more_body"] = False
        sent: list[Message] = []

        async def receive() -> Any:
            if not waiting:
                await asyncio.sleep(30)
            return waiting.pop(0)

        async def send(message: Message) -> None:
            sent.append(message)

        scope = {"type": "http", "method": "POST", "path": "/api/x", "headers": [(b"host", b"::1")]}
        scope["headers"] = [(b"host", b"localhost")]
        await Guard(app, "127.0.0.1", 100, stall_s=0.1)(scope, receive, send)
        return sent

    stalled = asyncio.run(ask([b"half"]))
    assert stalled[0]["status"] == 408
    assert "0.1 s" in json.loads(stalled[1]["body"])["error"]["why"]
    whole = asyncio.run(ask([b"half", b"end"]))
    assert whole[1]["body"] == b"halfend"


def test_half_a_letter_is_no_crash(client: TestClient) -> None:
    half = "\ud83d"
    piece = bring(client).json()
    url = f"/api/pieces/{piece['id']}"

    def send(method: str, path: str, body: Any) -> Any:
        headers = {"Content-Type": "application/json"}
        return client.request(method, path, content=json.dumps(body), headers=headers)

    assert send("POST", "/api/length", {"text": half}).status_code == 422
    assert send("POST", "/api/length", {"text": f"12 {half}"}).status_code == 422
    assert send("PATCH", url, {"name": f"a{half}b"}).status_code in (200, 422)
    change = {"recipe": piece["recipe"], "label": half}
    assert send("PUT", f"{url}/recipe", change).status_code in (200, 422)
    text = {"kind": "text", "id": "t", "text": half}
    lettered = deepcopy(piece["recipe"])
    art_of(lettered)["build_up"].append(text)
    assert send("PUT", f"{url}/recipe", {"recipe": lettered}).status_code in (200, 422)
    assert client.get(url).status_code == 200
    assert client.get("/api/pieces", params={"query": "x"}).status_code == 200


@pytest.mark.parametrize("bad", ["NaN", "Infinity", "-Infinity", "1e5", "1e308", "-2.01"])
def test_sections_and_spots_are_bounded(client: TestClient, bad: str) -> None:
    piece = bring(client, png(ramp())).json()
    recipe = json.dumps(piece["recipe"])
    headers = {"Content-Type": "application/json"}
    for path, body in (
        ("/api/section", f'{{"recipe": {recipe}, "start": [{bad}, 0.5], "end": [1, 0.5]}}'),
        ("/api/section", f'{{"recipe": {recipe}, "start": [0, 0.5], "end": [1, {bad}]}}'),
        ("/api/spot", f'{{"recipe": {recipe}, "at": [{bad}, 0.5]}}'),
    ):
        answer = client.post(path, content=body, headers=headers)
        assert answer.status_code == 422, path
        assert set(answer.json()["error"]) == {"kind", "what", "why", "remedy"}


@pytest.mark.parametrize("bad", ["nan", "inf", "-1", "0", "1e300"])
def test_wedges_of_no_size_are_refused(client: TestClient, bad: str) -> None:
    for path in ("/api/wedge.stl", "/api/practice-photograph.png"):
        assert client.get(path, params={"thickest": bad}).status_code == 422, path
    assert client.get("/api/wedge.stl", params={"steps": 10**9}).status_code == 422
