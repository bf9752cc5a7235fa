"""Presses of a page."""

from fastapi.testclient import TestClient
from httpx import Response


def step(client: TestClient, piece_id: str, way: str, base: int | None = None) -> Response:
    """Undo or redo on what is shown: revision `base`, or the newest."""
    shown = client.get(f"/api/pieces/{piece_id}").json()["revision"] if base is None else base
    return client.post(f"/api/pieces/{piece_id}/{way}", params={"base": shown})


def edit(client: TestClient, piece: dict, change: dict, label: str = "Edit") -> Response:
    """Keep a change of a piece as it was answered."""
    order = {"base": piece["revision"], "label": label, "change": change}
    return client.post(f"/api/pieces/{piece['id']}/revisions", json=order)
