"""The application over a real socket: described, guarded, and never a 500 for what a client sends."""

import json
import uuid

import httpx2
import pytest


@pytest.fixture(scope="module")
def client(app):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link("IM").removeprefix(app.address))
        yield made


@pytest.fixture(scope="module")
def manager(app):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link("RV").removeprefix(app.address))
        yield made


def start(client, method="liquid_limit", **more):
    return client.post("/api/v1/runs", json={"sample_id": 5, "method": method, **more})


def entry(path, value, **more):
    return {"entry": {"id": str(uuid.uuid4()), "path": path, "value": value, **more}}


PAGES = ("/bench", "/bench?zoom=six%20weeks", "/ground", "/ground/KS-26", "/samples/3", "/start", "/start?sample=3")
MORE = (
    "/practice",
    "/kit",
    "/kit/tin/12",
    "/kit/cup/cup%201",
    "/kit/balance/B1",
    "/dossiers",
    "/dossiers?page_number=2",
)
DESKS = (
    "/runs/LL-03",
    "/runs/LL-03?step=trials",
    "/runs/WC-01",
    "/runs/PL-01",
    "/runs/LL-01/sheet",
    "/runs/LL-03/sheet",
)


@pytest.mark.parametrize("page", PAGES + MORE + DESKS)
def test_every_place_opens_with_the_strict_policy(client, page):
    answer = client.get(page, headers={"Accept": "text/html"})
    assert answer.status_code == 200
    policy = answer.headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "unsafe" not in policy
    assert "style=" not in answer.text
    assert "onclick" not in answer.text
    assert answer.headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize("page", PAGES + MORE + DESKS + ("/people", "/api/v1/runs", "/api/v1/methods"))
def test_nothing_opens_without_signing_in(app, page):
    with httpx2.Client(base_url=app.address, timeout=60) as stranger:
        html = stranger.get(page, headers={"Accept": "text/html"})
        assert html.status_code in (303, 401)
        assert stranger.get(page, headers={"Accept": "application/json"}).status_code == 401


def test_the_interface_is_described(client):
    described = client.get("/api/v1/openapi.json").json()
    assert {"/api/v1/runs", "/api/v1/runs/{code}/entries", "/api/v1/methods"} <= set(described["paths"])
    for path, verbs in described["paths"].items():
        for verb in verbs.values():
            assert verb.get("description"), path


def test_a_run_begins_takes_readings_and_answers_with_its_outcome(client):
    made = start(client, "water_content")
    assert made.status_code == 201
    code = made.json()["code"]
    elsewhere = client.post(f"/api/v1/runs/{code}/entries", json={**entry("tin", "12"), "insist": True})
    assert (elsewhere.status_code, elsewhere.json()["asks_why"]) == (409, True), (
        "it lies in LL-03: a reason is asked for"
    )
    assert client.post(f"/api/v1/runs/{code}/entries", json=entry("tin", "9")).status_code == 201
    kept = client.post(f"/api/v1/runs/{code}/entries", json=entry("mass_wet_g", "60,5")).json()
    assert kept["path"] == "mass_wet_g"
    outcome = client.get(f"/api/v1/runs/{code}").json()
    assert outcome["advice"]["headline"].startswith("Lid off")
    tape = client.get(f"/api/v1/runs/{code}/tape").json()
    assert [e["path"] for e in tape] == ["@started", "tin", "mass_tin_g", "mass_wet_g"]
    assert tape[1]["hash"] == tape[2]["previous_hash"]


def test_the_same_id_twice_keeps_one(client):
    code = start(client, "water_content").json()["code"]
    body = entry("mass_wet_g", "60")
    first = client.post(f"/api/v1/runs/{code}/entries", json=body).json()
    second = client.post(f"/api/v1/runs/{code}/entries", json=body).json()
    assert (first["seq"], first["new"], second["seq"], second["new"]) == (2, True, 2, False)


def test_a_slip_answers_409_and_is_kept_when_insisted_on(client):
    code = start(client, "water_content").json()["code"]
    client.post(f"/api/v1/runs/{code}/entries", json=entry("mass_wet_g", "38.9"))
    body = entry("weighings[].mass_dry_g", "41.2")
    slip = client.post(f"/api/v1/runs/{code}/entries", json=body)
    assert slip.status_code == 409
    assert slip.json()["slip"]
    assert "41.2 > 38.9" in slip.json()["message"]
    assert client.post(f"/api/v1/runs/{code}/entries", json=body | {"insist": True}).status_code == 201


BAD_BODIES = [
    ("{", 422),
    ("[]", 422),
    ("null", 422),
    ('"x"', 422),
    ("{}", 422),
    (json.dumps({"entry": {"path": "tin"}}), 422),
    (json.dumps({"entry": {"path": "x" * 500, "value": "1"}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": [1, 2]}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": {"a": {"b": 1}}}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": "1", "id": "no uuid"}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": "1", "by": "RV"}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": "x" * 5000}}), 422),
    (json.dumps({"entry": {"path": "mass_wet_g", "value": 1e400}}), 422),
    (json.dumps({"entry": {"path": "mass_wet_g", "value": True}}), 422),
    (json.dumps({"entry": {"path": "mass_wet_g", "value": "\u0000"}}), 422),
    (json.dumps({"entry": {"path": "remarks", "value": "\ud800"}}), 422),
    (json.dumps({"entry": {"path": "in_oven_at", "value": "0000-00-00T00:00"}}), 422),
    (json.dumps({"entry": {"path": "weighings[9999].mass_dry_g", "value": "1"}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": None}}), 422),
    (json.dumps({"entry": {"path": "tin", "value": "1", "strikes": [str(uuid.uuid4())], "reason": "r"}}), 422),
]


@pytest.mark.parametrize(("body", "status"), BAD_BODIES)
def test_malformed_readings_are_refused_with_the_field_and_nothing_is_kept(client, body, status):
    code = start(client, "water_content").json()["code"]
    answer = client.post(
        f"/api/v1/runs/{code}/entries",
        content=body.encode("utf-8", "surrogatepass"),
        headers={"content-type": "application/json"},
    )
    assert answer.status_code == status, answer.text
    if status == 422:
        assert answer.json()["field"]
        assert answer.json()["message"]
        assert len(client.get(f"/api/v1/runs/{code}/tape").json()) == 1
    assert client.get(f"/runs/{code}", headers={"Accept": "text/html"}).status_code == 200


def test_an_oversized_body_is_refused_whatever_it_says_of_its_length(client):
    big = b"x" * 300_000
    assert client.post("/api/v1/jobs", content=big).status_code == 413
    assert client.post("/api/v1/jobs", content=(big[:1000] for _ in range(400))).status_code == 413


@pytest.mark.parametrize(
    ("url", "body", "field"),
    [
        ("/api/v1/runs", {"sample_id": "x", "method": "liquid_limit"}, "sample_id"),
        ("/api/v1/runs", {"sample_id": 5, "method": "tea"}, "method"),
        ("/api/v1/runs", {"sample_id": 5, "method": "liquid_limit", "school": "tea"}, "school"),
        ("/api/v1/runs", {"sample_id": 5, "method": "liquid_limit", "material": "WC-99"}, "material"),
        ("/api/v1/jobs", {"code": "", "title": "x"}, "code"),
        ("/api/v1/jobs", {"code": "KS-26", "title": "again"}, "code"),
        ("/api/v1/jobs/KS-26/spots", {"code": "Q", "easting_m": "far"}, "easting_m"),
        ("/api/v1/spots/1/samples", {"code": "Z", "depth_top_m": 2, "depth_bottom_m": 1}, "depth_bottom_m"),
        ("/api/v1/kit", {"kind": "hat", "code": "1"}, "kind"),
        ("/api/v1/kit/tin/12/tares", {"mass_g": -4}, "mass_g"),
        ("/api/v1/kit/cup/cup%201/inspections", {"drop_mm": 10}, "contact_spot_mm"),
    ],
)
def test_bad_input_names_its_field_everywhere(client, url, body, field):
    answer = client.post(url, json=body)
    assert answer.status_code == 422
    assert answer.json()["field"] == field


@pytest.mark.parametrize(
    "url", ["/runs/XX-1", "/samples/99999", "/kit/tin/none", "/ground/none", "/nowhere", "/runs/%00"]
)
def test_what_is_not_there_is_a_plain_404(client, url):
    assert client.get(url, headers={"Accept": "text/html"}).status_code == 404


def test_posts_from_another_site_are_refused(client):
    body = {"code": "EVIL", "title": "x"}
    assert client.post("/api/v1/jobs", json=body, headers={"Origin": "http://elsewhere.example"}).status_code == 403
    assert client.post("/api/v1/jobs", json=body, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403


def test_the_session_cookie_is_closed_to_scripts_and_sign_in_stays_on_our_site(app):
    with httpx2.Client(base_url=app.address, timeout=60) as stranger:
        form = {"login": "tomas", "passphrase": "seven wet stones", "to": "//elsewhere.example/"}
        answer = stranger.post("/signin", data=form)
        assert answer.status_code == 303
        assert answer.headers["location"] == "/bench"
        cookie = answer.headers["set-cookie"].lower()
        assert "httponly" in cookie
        assert "samesite=lax" in cookie
        wrong = stranger.post("/signin", data={"login": "tomas", "passphrase": "no"}, headers={"Accept": "text/html"})
        assert wrong.status_code == 403
        assert "do not match" in wrong.text


def test_only_a_manager_makes_accounts(client, manager):
    new = {"login": "new.one", "name": "New One", "initials": "NO", "role": "technician", "passphrase": "ten or more"}
    assert client.post("/api/v1/people", json=new).status_code == 403
    assert client.get("/people").status_code == 403
    assert manager.get("/people").status_code == 200
    assert manager.post("/api/v1/people", json={**new, "passphrase": "short"}).json()["field"] == "passphrase"
    assert manager.post("/api/v1/people", json=new).status_code == 201
    assert manager.post("/api/v1/people", json=new).json()["field"] == "login"


def test_the_find_box_finds_runs_samples_jobs_and_tins(client):
    assert client.get("/api/v1/find", params={"q": "ll-03"}).json()[0]["go"] == "/runs/LL-03"
    assert any(r["kind"] == "sample" for r in client.get("/api/v1/find", params={"q": "TP2"}).json())
    assert client.get("/api/v1/find", params={"q": "kestrel"}).json()[0]["go"] == "/ground/KS-26"
    tin = client.get("/api/v1/find", params={"q": "33"}).json()[0]
    assert (tin["words"], tin["go"]) == ("tin 33", "/runs/PL-02?field=determinations[0].mass_dry_g")
    assert tin["note"] == "PL-02 wet on the bench: tin + dry soil?"
    nothing = client.get("/api/v1/find", params={"q": "zz9"}).json()
    assert [row["kind"] for row in nothing] == ["none", "make", "make"]
    assert nothing[1]["go"] == "/kit?new=tin&code=zz9"
    assert client.get("/api/v1/find", params={"q": "zz9", "exact": True}).json() == []
    assert client.get("/api/v1/find", params={"q": "%"}).json()[0]["kind"] == "none"


def test_a_plastic_limit_takes_the_samples_liquid_limit_along(client):
    code = client.post("/api/v1/runs", json={"sample_id": 3, "method": "plastic_limit"}).json()["code"]
    brought = {e["path"]: e for e in client.get(f"/api/v1/runs/{code}/tape").json()}
    assert brought["finer_than_2um_percent"]["source"] == "run: HY-01"
    last = brought["liquid_limit_percent"]
    assert last["source"] == "run: LL-02"


def test_sheets_come_as_page_pdf_json_and_csv(client):
    page = client.get("/runs/LL-01/sheet", headers={"Accept": "text/html"}).text
    for words in ("Kestrel Saddle", "rules hold", "Working", "Tomas Oskel", "<svg"):
        assert words in page
    pdf = client.get("/runs/LL-01/sheet.pdf")
    assert pdf.content.startswith(b"%PDF-")
    data = client.get("/runs/LL-01/run.json").json()
    assert data["outcome"]["values"][0]["key"] == "liquid_limit_percent"
    assert len(data["tape"]) > 20
    csv = client.get("/runs/LL-01/run.csv").text
    assert "trials[0].mass_dry_g" in csv
    open_run = client.get("/runs/LL-03/sheet", headers={"Accept": "text/html"}).text
    assert "Not signed" in open_run
    assert "estimate, not reported" in open_run


def test_a_cell_that_looks_like_a_formula_stays_text_in_the_csv(client):
    code = start(client, "water_content").json()["code"]
    client.post(f"/api/v1/runs/{code}/entries", json=entry("remarks", "=HYPERLINK(1)"))
    assert ",'=HYPERLINK(1)" in client.get(f"/runs/{code}/run.csv").text


def test_markup_in_a_reading_is_shown_as_text(client):
    code = start(client, "water_content").json()["code"]
    client.post(f"/api/v1/runs/{code}/entries", json=entry("tin", "<b>x</b>"))
    page = client.get(f"/runs/{code}", headers={"Accept": "text/html"}).text
    assert "<b>x</b>" not in page
    assert client.get(f"/runs/{code}/sheet.pdf").status_code == 200


def test_a_loggers_block_is_posted_as_one_entry(client):
    code = start(client, "unconfined_compression").json()["code"]
    sizes = [f"diameter_{at}_mm" for at in ("top", "middle", "bottom")]
    for path, value in [(s, "38.1") for s in sizes] + [(f"height_{n}_mm", "76.2") for n in (1, 2, 3)]:
        assert client.post(f"/runs/{code}/entries", json=entry(path, value)).status_code == 200
    columns = {"deformation_mm": [f"{i / 100:.2f}" for i in range(800)], "force_n": [f"{i % 400}" for i in range(800)]}
    told = entry("readings[]", {"columns": columns, "units": {"deformation_mm": "mm", "force_n": "N"}})
    answer = client.post(f"/runs/{code}/entries", json={**told, "insist": True})
    assert answer.status_code == 200, answer.text
    tape = client.get(f"/api/v1/runs/{code}/tape").json()
    assert tape[-1]["value"]["columns"]["force_n"][399] == "399"
    assert client.get(f"/runs/{code}/run.csv").text.count("readings[") >= 1600
    assert client.get(f"/runs/{code}/sheet.pdf").content[:4] == b"%PDF"
