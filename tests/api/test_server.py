"""The server as a process: its address, its events, its guard, its end."""

import json
import os
import signal
import socket
import subprocess

import httpx
import pytest
from tools.running import PROGRAM, RunningServer

from nebrel.api.serving.addresses import listen_on
from nebrel.api.serving.events import News, Newsroom


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
    server = RunningServer(tmp_path / "one")
    other = ["serve", "--data", str(tmp_path / "other"), "--port", server.port]
    second = subprocess.run([*PROGRAM, *other], capture_output=True, text=True, check=False)
    server.process.terminate()
    server.process.wait(timeout=60)
    assert second.returncode == 2
    assert second.stderr.count("\n") == 1
    assert "--port" in second.stderr


def test_answers_are_not_held_back_by_the_socket():
    """Without its protocol asyncio leaves Nagle's algorithm on, and every answer takes 40 ms longer."""
    listening = listen_on("127.0.0.1", 0)
    try:
        assert listening.proto == socket.IPPROTO_TCP
    finally:
        listening.close()
