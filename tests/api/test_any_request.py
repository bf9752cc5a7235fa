"""Whatever is asked of any operation, the answer is none of ours, and a refusal is one sentence."""

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tools.running import RunningServer

from nebrel.api.app import create_app
from nebrel.settings import Settings

pytestmark = pytest.mark.deep

EXAMPLES, PATIENCE_SECONDS = 40, 60
# They never end, by themselves.
ENDLESS = ("/api/events",)
KNOWN = ("piece_id", "whole_id", "motif_id", "job_id")


def operations() -> list:
    schema = schemathesis.openapi.from_dict(create_app(Settings()).openapi())
    return [found.ok() for found in schema.get_all_operations()]


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    running = RunningServer(tmp_path_factory.mktemp("any"), "--demo")
    yield running
    running.process.terminate()
    running.process.wait(timeout=60)


@pytest.fixture(scope="module")
def known(server) -> dict[str, list[str]]:
    """Names of what is there, so that not all that is asked for is missing."""
    import httpx

    with httpx.Client(base_url=server.url, timeout=PATIENCE_SECONDS) as client:
        pieces = [piece["id"] for piece in client.get("/api/pieces").json()]
        client.post(f"/api/pieces/{pieces[0]}/build")
        return {
            "piece_id": pieces,
            "whole_id": pieces,
            "motif_id": [motif["id"] for motif in client.get("/api/motifs").json()] or ["none"],
            "job_id": [job["id"] for job in client.get("/api/jobs").json()] or ["none"],
        }


@pytest.mark.parametrize("operation", operations(), ids=lambda operation: operation.label)
def test_an_answer_is_never_a_mistake(operation, server, known):
    if operation.path in ENDLESS:
        return

    @settings(
        max_examples=EXAMPLES, deadline=None, database=None, derandomize=True, suppress_health_check=list(HealthCheck)
    )
    @given(case=operation.as_strategy(), which=st.data())
    def ask(case, which):
        for name in KNOWN:
            if name in (case.path_parameters or {}) and which.draw(st.integers(0, 9)):
                case.path_parameters[name] = which.draw(st.sampled_from(known[name]))
        answer = case.call(base_url=server.url, timeout=PATIENCE_SECONDS)
        if answer.status_code >= 400:
            told = f"{case.as_curl_command()}\n{answer.status_code} {answer.text[:400]}"
            assert answer.status_code < 500, told
            message = answer.json()["message"]
            assert message.strip() and "Traceback" not in message, told

    ask()
    assert server.process.poll() is None
