"""Keys and orders as the screen asks for them."""

import pytest
from fastapi.testclient import TestClient

from tests.waiting import until
from tests.web.test_figure_api import begun, doll


@pytest.fixture(autouse=True)
def short_queue(client: TestClient) -> None:
    client.app.state.desk._practice._wait_s = 0.1  # type: ignore[attr-defined]


def test_a_model_is_ordered_and_becomes_a_piece(client: TestClient) -> None:
    (service,) = client.get("/api/makers").json()
    assert service == {
        "id": "practice",
        "name": "Practice service",
        "keyed": False,
        "practice": True,
    }
    refused = client.post("/api/orders", files={"file": ("doll.png", doll())})
    assert refused.status_code == 422 and "there is none" in refused.text
    wrong = client.put("/api/makers/practice/key", json={"key": "practice-nonsense"})
    assert wrong.status_code == 422 and "not known" in wrong.text
    assert not client.get("/api/makers").json()[0]["keyed"]  # what did not work is not kept
    assert client.post("/api/makers/practice/key").status_code == 204
    assert client.get("/api/makers/practice/account").json() == {"credits": 50}
    assert "practice-" not in client.get("/api/makers").text  # the key itself is never told

    unreadable = client.post("/api/orders", files={"file": ("doll.png", b"nothing")})
    assert unreadable.status_code == 415
    recipe = begun(client)["recipe"]
    body = {"recipe": recipe, "name": "A doll"}
    order = client.post("/api/orders/figure", json=body).json()
    assert order["filename"] == "A doll.png" and order["state"] == "sending"
    twice = client.post("/api/orders/figure", json=body)
    assert twice.status_code == 409 and "ordered already, as A doll.png" in twice.text
    assert (
        twice.json()["error"]["kind"] == "repeated" and len(client.get("/api/orders").json()) == 1
    )
    seen = client.get(f"/api/orders/{order['id']}/picture")
    assert seen.headers["content-type"] == "image/png"
    early = client.post(f"/api/orders/{order['id']}/piece")
    assert early.status_code == 409

    def state() -> str:
        return str(client.get("/api/orders").json()[0]["state"])

    until(lambda: state() == "failed")  # the first one there always does
    assert client.post(f"/api/orders/{order['id']}/cancel").status_code == 409
    assert client.post(f"/api/orders/{order['id']}/again").status_code == 200
    until(lambda: state() == "done")
    sent = {"file": ("again.png", seen.content)}
    assert "its model is here" in client.post("/api/orders", files=sent).text
    meant = client.post("/api/orders", params={"again": True}, files=sent).json()
    client.post(f"/api/orders/{meant['id']}/cancel")
    until(lambda: state() == "cancelled")
    assert client.delete(f"/api/orders/{meant['id']}").status_code == 204
    piece = client.post(f"/api/orders/{order['id']}/piece").json()
    assert piece["name"] == "A doll" and piece["recipe"]["begins"]["kind"] == "body"
    assert client.get("/api/orders").json()[0]["piece_id"] == piece["id"]
    kept = client.get(f"/api/pieces/{piece['id']}").json()["mesh"]
    assert kept["coloured"] and kept["triangles"] > 1000
    assert client.delete(f"/api/orders/{order['id']}").status_code == 204
    assert client.get(f"/api/orders/{order['id']}/picture").status_code == 404
    assert client.delete("/api/makers/practice/key").status_code == 204
    assert client.get("/api/makers/nobody/account").status_code == 404


def test_a_relief_has_no_subject_to_order(client: TestClient) -> None:
    piece = client.post("/api/pieces", files={"file": ("doll.png", doll())}).json()
    found = client.post("/api/orders/figure", json={"recipe": piece["recipe"]})
    assert found.status_code == 404 and "Begin a figure" in found.text
