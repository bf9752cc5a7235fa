"""The server as a process: its address, its events, its guard, its end."""

import json
import os
import signal
import socket
import subprocess

import httpx
import pytest
from fastapi.testclient import TestClient
from tools.running import PROGRAM, RunningServer

from nebrel.api.app import create_app
from nebrel.api.run import _listen
from nebrel.api.serving.events import News, Newsroom
from tests.api.conftest import BASE


class TestGuard:
    def test_other_hosts_and_origins_are_refused(self, client):
        assert client.get("/api/pieces", headers={"Host": "evil.example"}).status_code == 400
        assert client.get("/api/pieces", headers={"Origin": "http://evil.example"}).status_code == 403
        assert client.get("/api/pieces", headers={"Origin": BASE}).status_code == 200
        assert client.get("/api/pieces", headers={"Host": "localhost:8642"}).status_code == 200

    def test_too_much_is_refused_by_its_announcement(self, client):
        answer = client.post("/api/pieces", content=b"x", headers={"Content-Length": str(10**12)})
        assert answer.status_code == 413

    def test_on_other_addresses_a_token_is_needed(self, settings):
        open_settings = settings.model_copy(update={"host": "0.0.0.0", "access_token": "right"})
        with TestClient(create_app(open_settings), base_url="http://studio.lan:8642") as client:
            assert client.get("/api/pieces").status_code == 401
            assert client.get("/api/pieces?token=wrong").status_code == 401
            assert client.get("/?token=right", follow_redirects=False).status_code == 303
            assert client.get("/api/pieces").status_code == 200

    def test_pages_do_not_lead_out_of_their_folder(self, client):
        for path in ("/../app.py", "/%2e%2e/app.py", "/..%2f..%2fpyproject.toml"):
            assert "import" not in client.get(path).text.split("<")[0]
        assert client.get("/api/nothing").status_code == 404


@pytest.mark.anyio
async def test_news_reach_every_listener_until_the_end():
    import anyio

    room, heard = Newsroom(), []

    async def listen():
        async for news in room.listen():
            heard.append(news.data["n"])

    async with anyio.create_task_group() as group:
        group.start_soon(listen)
        group.start_soon(listen)
        await anyio.wait_all_tasks_blocked()
        room.tell(News("x", {"n": 1}))
        room.tell(News("x", {"n": 2}))
        room.tell(None)
    assert sorted(heard) == [1, 1, 2, 2]


@pytest.fixture
def anyio_backend():
    return "asyncio"


def test_killed_with_work_running_nothing_saved_is_lost(tmp_path, hill, noise):
    data = tmp_path / "data"
    server = RunningServer(data)
    with httpx.Client(base_url=server.url, timeout=240) as client:
        saved = client.post("/api/pieces", files={"picture": ("hill.png", hill)}).json()
        slow = client.post("/api/pieces", files={"picture": ("noise.png", noise)}).json()
        with client.stream("GET", "/api/events") as events:
            lines = events.iter_lines()
            client.post(f"/api/pieces/{slow['id']}/build")
            states = []
            for line in lines:
                if line.startswith("data:") and '"state"' in line:
                    states.append(json.loads(line[5:])["state"])
                    if states[-1] == "running":
                        break
            assert states == ["waiting", "running"]
        os.kill(server.process.pid, signal.SIGKILL)
        server.process.wait()

    server = RunningServer(data)
    try:
        with httpx.Client(base_url=server.url, timeout=240) as client:
            assert client.get(f"/api/pieces/{saved['id']}").json() == saved
            (job,) = client.get("/api/jobs", params={"piece_id": slow["id"]}).json()
            assert job["state"] == "interrupted"
    finally:
        server.process.send_signal(signal.SIGTERM)
        assert server.process.wait(timeout=60) in (0, -signal.SIGTERM)


def test_a_taken_port_is_one_sentence(tmp_path):
    server = RunningServer(tmp_path)
    second = subprocess.run(
        [*PROGRAM, "serve", "--data", str(tmp_path), "--port", server.port], capture_output=True, text=True, check=False
    )
    server.process.terminate()
    server.process.wait(timeout=60)
    assert second.returncode == 2
    assert second.stderr.count("\n") == 1
    assert "--port" in second.stderr


def test_answers_are_not_held_back_by_the_socket():
    """Without its protocol asyncio leaves Nagle's algorithm on, and every answer takes 40 ms longer."""
    listening = _listen("127.0.0.1", 0)
    try:
        assert listening.proto == socket.IPPROTO_TCP
    finally:
        listening.close()
