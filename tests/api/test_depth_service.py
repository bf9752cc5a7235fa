"""A service that makes depths: what is asked of it, what comes back, and what is said when it fails."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import NebrelError
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.picture import read_picture
from nebrel.jobs import depth_service
from nebrel.jobs.depth_service import DepthService, ServiceError, ServiceOrder
from nebrel.piece.depths.sent import depths_of_picture, depths_of_solid, sent_files
from nebrel.settings import Settings
from nebrel.simulated.depth_service import Pace
from nebrel.simulated.stand_in import StandIn
from tests.api.services import TERMS, service_that, told
from tests.core.skins import sphere

QUICK = Pace(seconds=0.2, fails=lambda _: False)
WAITING = '{"id": "a", "state": "waiting", "position": 3, "cost": 1}'
DONE = '{"id": "a", "state": "done", "cost": 1, "depth_share": 0.5}'


@pytest.fixture(autouse=True)
def impatient(monkeypatch):
    """Asked again sooner than in earnest."""
    monkeypatch.setattr(depth_service, "POLL_SECONDS", 0.02)


def disc(side: int = 96) -> bytes:
    x, y = np.meshgrid(np.arange(side), np.arange(side))
    picture = np.zeros((side, side, 4), dtype=np.uint8)
    picture[np.hypot(x - side / 2, y - side / 2) < 0.4 * side] = (160, 90, 60, 255)
    picture[np.hypot(x - side / 2, y - side / 3) < 0.1 * side] = (230, 220, 200, 255)
    held = io.BytesIO()
    Image.fromarray(picture).save(held, "PNG")
    return held.getvalue()


def order(gives="depth", side: int = 96) -> ServiceOrder:
    return ServiceOrder(*sent_files(read_picture(disc(side), "disc.png")), gives)


def asked(url: str, what: ServiceOrder | None = None, **options):
    stages: list[str] = []
    with DepthService(url, **options) as service:
        answer = service.make(what or order(), lambda stage, _: stages.append(stage))
    return answer, stages


class TestStandIn:
    def test_makes_depths_in_turn_and_tells_how_far_it_is(self):
        answer, stages = asked(StandIn(QUICK).address)
        assert not answer.solid
        assert answer.cost == 3
        assert stages[0] == "Sending the picture to the service"
        assert any("before it" in stage or "next in turn" in stage for stage in stages)
        data, share = depths_of_picture(answer.data, answer.depth_share)
        assert read_picture(data, "d.png").tones.shape == (96, 96)
        assert 0.1 < share < 1

    def test_makes_a_solid_that_its_depths_are_taken_from(self):
        url = StandIn(QUICK).address
        solid, _ = asked(url, order("solid"))
        depths, _ = asked(url, order("depth"))
        picture = read_picture(disc(), "disc.png")
        of_solid, share = depths_of_solid(solid.data, picture)
        of_depths, other = depths_of_picture(depths.data, depths.depth_share)
        one = read_picture(of_solid, "d.png").tones * share
        two = read_picture(of_depths, "d.png").tones * other
        inside = picture.coverage > 0.5
        apart = (one - two)[inside]
        assert np.abs(apart - np.median(apart)).mean() < 0.02

    def test_fails_with_a_reason_and_is_tried_again_for_nothing(self):
        url = StandIn(Pace(seconds=0.1, fails=lambda attempt: attempt == 1)).address
        with pytest.raises(ServiceError, match=r"The service failed\. .+\. Ask again; that costs nothing\."):
            asked(url)
        assert asked(url)[0].cost == 0

    def test_fails_one_time_in_five(self):
        assert sum(Pace().fails(attempt) for attempt in range(1, 101)) == 20

    def test_makes_the_same_order_once(self):
        url = StandIn(Pace(seconds=0.3, fails=lambda attempt: attempt > 1)).address
        assert asked(url)[0].data == asked(url)[0].data

    def test_keeps_a_result_for_a_while_only(self):
        url = StandIn(Pace(seconds=0.1, fails=lambda _: False, keeps_seconds=-1.0)).address
        with pytest.raises(ServiceError, match="is gone"):
            asked(url)

    def test_refuses_what_is_no_picture_in_words(self):
        with pytest.raises(ServiceError, match="The service failed"):
            asked(StandIn(QUICK).address, ServiceOrder(b"no picture", b"none", "depth"))


class TestMisbehaviour:
    def test_no_answer_at_all(self):
        with pytest.raises(ServiceError, match=r"does not answer at http://127\.0\.0\.1:9"):
            asked("http://127.0.0.1:9")

    def test_an_address_that_is_none(self):
        with DepthService("nonsense") as service, pytest.raises(ServiceError, match="does not answer"):
            service.terms()

    @pytest.mark.parametrize(
        "rubbish",
        [
            (200, "text/html", b"<h1>Hello</h1>"),
            told("[]"),
            told('{"id": "../../etc", "state": "done"}'),
            told('{"id": "a", "state": "melted"}'),
            told('{"id": "a", "state": "done", "depth_share": -1}'),
            told('{"id": "a", "state": "working", "fraction": 7}'),
        ],
    )
    def test_rubbish(self, rubbish):
        with service_that(lambda *_: rubbish) as url, pytest.raises(ServiceError, match="not in the contract"):
            asked(url)

    def test_more_than_may_be_taken_in(self):
        with service_that(lambda *_: told(" " * 100_000)) as url, pytest.raises(ServiceError, match="more than"):
            asked(url)

    @pytest.mark.parametrize(("status", "body"), [(503, b'{"reason": "Full."}'), (500, b"oops")])
    def test_a_refusal(self, status, body):
        with (
            service_that(lambda *_: (status, "application/json", body)) as url,
            pytest.raises(ServiceError, match=r"The service refused: (Full|status 500)"),
        ):
            asked(url)

    def test_a_result_of_another_type(self):
        def answers(_method: str, path: str):
            return (200, "text/plain", b"hm") if path.endswith("result") else told(DONE)

        with service_that(answers) as url, pytest.raises(ServiceError, match="a result of the type"):
            asked(url)

    def test_one_that_is_never_done_is_given_up(self):
        with (
            service_that(lambda *_: told(WAITING)) as url,
            pytest.raises(ServiceError, match="go on waiting"),
        ):
            asked(url, patience=0.1)

    def test_depths_that_are_even(self):
        with pytest.raises(NebrelError, match="even"):
            depths_of_picture(_flat(), 0.5)

    def test_a_solid_of_another_thing(self):
        held = io.BytesIO()
        write_mesh(sphere(48), held, "glb")
        tall = np.zeros((200, 50, 4), dtype=np.uint8)
        tall[10:190, 10:40] = 255
        file = io.BytesIO()
        Image.fromarray(tall).save(file, "PNG")
        with pytest.raises(NebrelError, match="what was cut out is 30 × 180"):
            depths_of_solid(held.getvalue(), read_picture(file.getvalue(), "tall.png"))


def _flat() -> bytes:
    held = io.BytesIO()
    Image.fromarray(np.full((40, 40), 90, np.uint8)).save(held, "PNG")
    return held.getvalue()


class TestOnThePiece:
    @pytest.fixture
    def settings(self, tmp_path) -> Settings:
        return Settings(data_dir=tmp_path / "data", service_url=StandIn(QUICK).address)

    @pytest.fixture
    def figure(self, client) -> str:
        piece = client.post("/api/pieces", files={"picture": ("disc.png", disc(160))}).json()
        shape = {"shape": "figure", "base": piece["revision"], "label": "Figure"}
        piece = client.post(f"/api/pieces/{piece['id']}/shape", json=shape).json()
        coarse = {"base": piece["revision"], "label": "Coarse", "change": {"figure": {"cells": 64}}}
        return client.post(f"/api/pieces/{piece['id']}/revisions", json=coarse).json()["id"]

    def test_the_result_is_an_ordinary_source_of_depth(self, client, figure, job_until):
        job = client.post(f"/api/pieces/{figure}/ask-service", json={}).json()
        done = job_until(job["id"], lambda each: each["state"] in ("done", "failed"))
        assert done["state"] == "done", done["message"]
        depths = done["depths"]
        assert (depths["cost"], depths["cost_unit"], depths["name"]) == (3, "credits", "Simulated service")
        piece = client.get(f"/api/pieces/{figure}").json()
        depth = {"kind": "service", **{name: depths[name] for name in ("blob", "name", "span_mm")}}
        edit = {"base": piece["revision"], "label": "Depth", "change": {"figure": {"depth": depth}}}
        assert client.post(f"/api/pieces/{figure}/revisions", json=edit).status_code < 300
        compared = client.post(f"/api/pieces/{figure}/depth-sources", json={"change": {}, "longest_px": 400}).json()
        assert compared[0]["source"] == "service"

    def test_without_a_result_it_is_refused_in_a_sentence(self, client, figure):
        piece = client.get(f"/api/pieces/{figure}").json()
        edit = {"base": piece["revision"], "label": "Depth", "change": {"figure": {"depth": {"kind": "service"}}}}
        answer = client.post(f"/api/pieces/{figure}/revisions", json=edit)
        assert "has not made depths yet" in answer.json()["message"]

    def test_waits_beside_a_build_and_can_be_cancelled(self, client, figure, job_until):
        asked_for = client.post(f"/api/pieces/{figure}/ask-service", json={"gives": "solid"}).json()
        built = client.post(f"/api/pieces/{figure}/build").json()
        client.post(f"/api/jobs/{asked_for['id']}/cancel")
        assert job_until(asked_for["id"], lambda each: each["state"] == "cancelled")
        assert job_until(built["id"], lambda each: each["state"] == "done")

    def test_terms_are_told(self, client):
        told_terms = client.get("/api/depth-service").json()
        assert (told_terms["cost"], told_terms["simulated"]) == (3, False)


class TestWithoutAnAddress:
    def test_the_stand_in_answers(self, client):
        assert client.get("/api/depth-service").json()["simulated"] is True

    def test_a_service_that_does_not_answer_is_told(self, client, monkeypatch):
        client.app.state.context.workshop.settings.service_url = "http://127.0.0.1:9"
        assert "does not answer" in client.get("/api/depth-service").json()["problem"]


def test_terms_that_are_none_are_told():
    with service_that(lambda *_: (200, "application/json", TERMS)) as url, DepthService(url) as service:
        assert service.terms().cost_unit == "coins"
