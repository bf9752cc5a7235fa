"""Whatever is asked of any operation, the answer is none of ours, and a refusal is one sentence."""

import httpx
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tools.running import RunningServer

from nebrel.api.app import create_app
from nebrel.settings import Settings

pytestmark = pytest.mark.deep

EXAMPLES, PATIENCE_SECONDS = 40, 300
GROUPS = [
    "assemblies", "carving", "choices", "decorations", "figures", "jobs", "lithophanes", "materials", "models",
    "motifs", "news", "outlines", "pictures", "piece-files", "pieces", "previews", "recipes",
    "server", "targets", "versions",
]  # fmt: skip
# They never end, by themselves.
ENDLESS = ("/api/events",)
KNOWN = ("piece_id", "whole_id", "motif_id", "job_id")


def operations() -> list:
    import schemathesis

    schema = schemathesis.openapi.from_dict(create_app(Settings()).openapi())
    return [
        operation
        for operation in (found.ok() for found in schema.get_all_operations())
        if operation.path not in ENDLESS
    ]


def group_of(operation) -> str:
    return operation.definition.raw["tags"][0]


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    running = RunningServer(tmp_path_factory.mktemp("any"), "--demo")
    yield running
    running.process.terminate()
    running.process.wait(timeout=60)


@pytest.fixture(scope="module")
def known(server) -> dict[str, list[str]]:
    """Names of what is there, so that not all that is asked for is missing."""
    with httpx.Client(base_url=server.url, timeout=PATIENCE_SECONDS) as client:
        pieces = [piece["id"] for piece in client.get("/api/pieces").json()]
        client.post(f"/api/pieces/{pieces[0]}/build")
        return {
            "piece_id": pieces,
            "whole_id": pieces,
            "motif_id": [motif["id"] for motif in client.get("/api/motifs").json()] or ["none"],
            "job_id": [job["id"] for job in client.get("/api/jobs").json()] or ["none"],
        }


@pytest.mark.parametrize("group", GROUPS)
def test_an_answer_is_never_a_mistake(group, server, known):
    wrong = []
    for operation in operations():
        if group_of(operation) == group:
            try:
                _ask(operation, server.url, known)
            except Exception as found:
                wrong.append(f"{operation.label}: {found}"[:1200])
    assert wrong == []
    assert server.process.poll() is None


def test_no_group_is_left_out():
    assert {group_of(operation) for operation in operations()} <= set(GROUPS)


def _ask(operation, url: str, known: dict[str, list[str]]) -> None:
    @settings(
        max_examples=EXAMPLES, deadline=None, database=None, derandomize=True, suppress_health_check=list(HealthCheck)
    )
    @given(case=operation.as_strategy(), which=st.data())
    def ask(case, which):
        for name in KNOWN:
            if name in (case.path_parameters or {}) and which.draw(st.integers(0, 9)):
                case.path_parameters[name] = which.draw(st.sampled_from(known[name]))
        answer = case.call(base_url=url, timeout=PATIENCE_SECONDS)
        if answer.status_code >= 400:
            told = f"{case.as_curl_command()}\n{answer.status_code} {answer.text[:400]}"
            assert answer.status_code < 500, told
            message = answer.json()["message"]
            assert message.strip() and "Traceback" not in message, told

    ask()
