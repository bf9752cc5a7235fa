"""The real application over a data folder of its own."""

import time
from collections.abc import Callable, Iterator

import numpy as np
import pytest
from fastapi.testclient import TestClient

from nebrel.api.app import create_app
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.settings import Settings
from tests.looking import shared_looking

BASE = "http://127.0.0.1:8642"
PATIENCE_SECONDS = 300


@pytest.fixture
def settings(tmp_path) -> Settings:
    return Settings(data_dir=tmp_path / "data")


@pytest.fixture
def client(settings) -> Iterator[TestClient]:
    with TestClient(create_app(settings, looking=shared_looking()), base_url=BASE) as client:
        yield client


@pytest.fixture
def computing(client, settings) -> Iterator[Workshop]:
    """The data folder of the application, opened by who computes in this process."""
    workshop = open_workshop(settings)
    yield workshop
    workshop.close()


@pytest.fixture
def started(client, hill) -> dict:
    """A piece from the hill."""
    answer = client.post("/api/pieces", files={"picture": ("hill.png", hill)})
    assert answer.status_code == 201
    return answer.json()


@pytest.fixture(scope="session")
def noise(encode) -> bytes:
    """A picture that takes a worker many seconds: nothing in it can be left out."""
    return encode(np.random.default_rng(1).integers(0, 65535, (2400, 2400)).astype(np.uint16), compress_level=1)


@pytest.fixture
def job_until(client) -> Callable[..., dict]:
    """Ask for a job until it fulfils a condition."""

    def wait(job_id: str, condition: Callable[[dict], bool]) -> dict:
        deadline = time.monotonic() + PATIENCE_SECONDS
        while time.monotonic() < deadline:
            job = next(job for job in client.get("/api/jobs").json() if job["id"] == job_id)
            if condition(job):
                return job
            time.sleep(0.05)
        raise AssertionError(f"The job did not get there: {job}")

    return wait
