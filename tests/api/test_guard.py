"""Who is let in, and what pages may do."""

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from nebrel.api.app import create_app
from nebrel.api.serving.cluster import ClusterAccess
from nebrel.api.serving.guard import HEADERS
from nebrel.core.errors import BadValueError, ConflictError, NotFoundError
from nebrel.store.shared.lent import lent_from
from tests.api.conftest import BASE

LAN = "http://studio.lan:8642"


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
            opened = client.get("/?token=right", follow_redirects=False)
            assert opened.status_code == 200 and 'url=/"' in opened.text
            assert client.get("/api/pieces").status_code == 200

    @pytest.mark.parametrize(
        ("host", "status"),
        [
            ("LOCALHOST:8642", 200), ("127.0.0.2", 200), ("127.8.9.10:99", 200), ("[::1]:8642", 200),
            ("localhost.", 200), ("nebrel.localhost:8642", 200), ("localhost.evil.example", 400),
            ("127.0.0.1.evil.example", 400), ("[::2]", 400), ("10.0.0.1", 400), ("", 400), ("[::1", 400),
        ],
    )  # fmt: skip
    def test_any_name_of_this_machine_is_one(self, client, host, status):
        assert client.get("/api/jobs", headers={"Host": host}).status_code == status

    def test_workers_have_a_token_of_their_own_which_opens_nothing_else(self, settings, tmp_path):
        lent = lent_from(tmp_path, 2**20)
        open_settings = settings.model_copy(update={"host": "0.0.0.0", "access_token": "right"})
        key, bearer = f"/api/shared/kept/{'a' * 64}", {"Authorization": f"Bearer {lent.token}"}
        app = create_app(open_settings, cluster=ClusterAccess(lent=lent))
        with TestClient(app, base_url="http://studio.lan:8642") as client:
            assert client.get(f"{key}?token=right").status_code == 422
            assert client.put(key, content=b"a result", headers=bearer).status_code == 204
            assert client.get(key, headers=bearer).content == b"a result"
            assert client.head(key, headers=bearer).headers["Content-Length"] == "8"
            assert client.get("/api/pieces", headers=bearer).status_code == 401
            assert client.get(f"/api/pieces?token={lent.token}").status_code == 401

    def test_a_server_without_a_cluster_lends_nothing(self, client):
        answer = client.get(f"/api/shared/kept/{'a' * 64}", headers={"Authorization": "Bearer "})
        assert answer.status_code == 404
        assert "lends no results" in answer.json()["message"]

    def test_pages_do_not_lead_out_of_their_folder(self, client):
        for path in ("/../app.py", "/%2e%2e/app.py", "/..%2f..%2fpyproject.toml"):
            assert "import" not in client.get(path).text.split("<")[0]
        assert client.get("/api/nothing").status_code == 404


@pytest.fixture
def open_to_all(settings) -> Iterator[TestClient]:
    settings = settings.model_copy(update={"host": "0.0.0.0", "access_token": "right"})
    with TestClient(create_app(settings), base_url=LAN) as client:
        yield client


class TestTokens:
    """A strict cookie does not come along where another site led here, so a page of ours sets it and leads on."""

    def test_a_link_leads_to_its_page_on_this_server_and_keeps_the_rest(self, open_to_all):
        answer = open_to_all.get("/pieces/abc?token=right&station=proof&x=%22%3E%3Cscript%3E", follow_redirects=False)
        assert 'content="0; url=/pieces/abc?station=proof&amp;x=%22%3E%3Cscript%3E"' in answer.text
        assert answer.headers["cache-control"] == "no-store"
        cookie = answer.headers["set-cookie"].lower()
        assert "httponly" in cookie and "samesite=strict" in cookie and "secure" not in cookie

    @pytest.mark.parametrize("path", ["//evil.example/", "/\\\\evil.example/", "///evil.example"])
    def test_a_link_never_leads_elsewhere(self, open_to_all, path):
        answer = open_to_all.get(f"{LAN}{path}?token=right", follow_redirects=False)
        assert answer.status_code == 200 and "url=/evil.example" in answer.text

    def test_what_programs_ask_with_a_token_is_answered_at_once(self, open_to_all):
        assert open_to_all.get("/api/pieces?token=right", follow_redirects=False).json() == []

    @pytest.mark.parametrize(
        "cookies",
        ['{"theme": "dark"}; nebrel_token=right', "a b=c; =; x=@[]; nebrel_token=right", 'nebrel_token="right"'],
    )
    def test_cookies_of_other_programs_do_no_harm(self, open_to_all, cookies):
        assert open_to_all.get("/api/pieces", headers={"Cookie": cookies}).status_code == 200

    def test_tokens_with_names_are_given_out_and_revoked_while_the_server_runs(self, open_to_all):
        tokens = open_to_all.app.state.context.workshop.tokens
        ada, bo = tokens.add("Ada"), tokens.add("Bo")
        assert [each.name for each in tokens.all()] == ["Ada", "Bo"]
        for token in (ada, bo, "right"):
            assert open_to_all.get("/api/pieces", headers={"Cookie": f"nebrel_token={token}"}).status_code == 200
        tokens.revoke("Ada")
        assert open_to_all.get("/api/pieces", headers={"Cookie": f"nebrel_token={ada}"}).status_code == 401
        assert open_to_all.get(f"/?token={bo}").status_code == 200
        with pytest.raises(ConflictError, match="Bo already"):
            tokens.add("Bo ")
        with pytest.raises(NotFoundError, match="Ada"):
            tokens.revoke("Ada")
        with pytest.raises(BadValueError, match="needs a name"):
            tokens.add(" ")

    def test_over_tls_the_cookie_is_for_tls_only(self, settings):
        settings = settings.model_copy(update={"host": "0.0.0.0", "access_token": "right"})
        with TestClient(create_app(settings), base_url="https://studio.lan:8642") as client:
            assert "secure" in client.get("/?token=right", follow_redirects=False).headers["set-cookie"].lower()


class TestHeaders:
    @pytest.mark.parametrize("path", ["/", "/api/pieces", "/api/nothing", "/assets/none.js"])
    def test_every_answer_tells_what_pages_may_do(self, client, path):
        told = client.get(path).headers
        assert {name: told.get(name) for name in HEADERS} == HEADERS
        assert (
            "unsafe" not in told["content-security-policy"]
            and "frame-ancestors 'none'" in told["content-security-policy"]
        )

    def test_refusals_of_the_guard_do_too(self, client):
        assert client.get("/", headers={"Host": "evil.example"}).headers["x-content-type-options"] == "nosniff"


class TestAnswers:
    """Whatever is asked, the answer is no mistake, and has the documented shape."""

    @pytest.mark.parametrize(
        ("way", "path", "status"),
        [
            ("GET", "/%00", 404),
            ("GET", "/a%00b.js", 404),
            ("GET", "/" + "long/" * 2000, 404),
            ("GET", "/" + "x" * 5000, 404),
            ("GET", "/api/nothing", 404),
            ("GET", "/api/decoration-art/picture/..%2f..%2fnebrel.png", 404),
            ("GET", "/api/decoration-art/picture/....png", 404),
            ("GET", "/api/decoration-art/outline/%2e%2e.png", 404),
            ("GET", "/api/decoration-art/neither/abc.png", 422),
            ("POST", "/api/pieces/abc", 405),
            ("PUT", "/index.html", 405),
            ("GET", f"/api/versions/{2**70}/model", 422),
            ("DELETE", f"/api/versions/{-(2**70)}", 422),
            ("GET", f"/api/pieces/{'9' * 3000}", 404),
            ("POST", f"/api/pieces/abc/undo?base={2**80}", 404),
            ("POST", "/api/pieces/abc/undo", 422),
            ("POST", "/api/pieces/abc/undo?base=NaN", 422),
        ],
    )
    def test_addresses(self, client, way, path, status):
        answer = client.request(way, path)
        assert (answer.status_code, list(answer.json())) == (status, ["message"])
        assert answer.json()["message"].endswith(".")

    @pytest.mark.parametrize(
        "body",
        [
            '{"base": NaN}', '{"base": 1e400}', '{"base": -Infinity}', f'{{"base": {2**64}}}',
            f'{{"base": {"9" * 5000}}}',
            '{"label": "\\ud800"}', "{", "[" * 100_000, "", "null", "[]", '"x"', "\xff",
        ],
    )  # fmt: skip
    def test_bodies(self, client, started, body):
        url = f"/api/pieces/{started['id']}/revisions"
        answer = client.post(url, content=body.encode("latin-1"), headers={"Content-Type": "application/json"})
        assert answer.status_code in (400, 422) and list(answer.json()) == ["message"]

    @pytest.mark.parametrize("value", ["NaN", "1e999", "-Infinity", "123456789012345678901234567890"])
    def test_numbers_that_are_none_in_the_middle_of_a_change(self, client, started, value):
        change = f'{{"height": {{"rule": {{"relief_mm": {value}}}}}}}'
        body = f'{{"base": {started["revision"]}, "label": "x", "change": {change}}}'
        kind = {"Content-Type": "application/json"}
        answer = client.post(f"/api/pieces/{started['id']}/revisions", content=body, headers=kind)
        assert answer.status_code == 422
        assert "no number that can be worked with" in answer.json()["message"]
        assert client.get(f"/api/pieces/{started['id']}").json() == started

    def test_words_that_look_like_such_numbers_are_words(self, client, started):
        change = {"title": "NaN, 1e400 and Infinity, 12345678901234567890"}
        order = {"base": started["revision"], "label": "\U0001f33f", "change": change}
        kept = client.post(f"/api/pieces/{started['id']}/revisions", json=order)
        assert kept.json()["document"]["title"] == change["title"]

    def test_all_refusals_have_one_shape_in_the_description(self, client):
        told = client.app.openapi()
        for ways in told["paths"].values():
            for way in ways.values():
                assert {"4XX", "5XX"} <= set(way["responses"]) and "422" not in way["responses"]
        assert "HTTPValidationError" not in told["components"]["schemas"]
