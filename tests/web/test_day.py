"""The doors of a laboratory's day, over a real socket: who may, what is refused by its field, what comes back."""

import base64
import csv
import html
import io
import re
import uuid
import zipfile
from contextlib import contextmanager

import httpx2
import pytest

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9z"/></svg>'


@contextmanager
def signed_in(app, who):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60) as made:
        made.get(app.link(who).removeprefix(app.address))
        yield made


@pytest.fixture(scope="module")
def client(app):
    with signed_in(app, "IM") as made:
        yield made


@pytest.fixture(scope="module")
def manager(app):
    with signed_in(app, "RV") as made:
        yield made


def found(client, text, **more):
    return client.get("/api/v1/find", params={"q": text, **more}).json()


def test_each_finding_says_what_the_thing_is_doing_now(client):
    tin = found(client, "38")[0]
    assert (tin["kind"], tin["words"], tin["exact"]) == ("tin", "tin 38", True)
    assert tin["note"] == "WC-03 may come out: tin + dry soil?"
    assert tin["go"] == "/runs/WC-03?field=weighings[0].mass_dry_g"
    assert found(client, "TP4 1.6")[0]["words"] == "TP4 1.6 m · T1"
    method = next(row for row in found(client, "liquid limit") if row["kind"] == "method")
    assert (method["go"], method["exact"]) == ("/runs?method=liquid_limit", True)
    assert found(client, "Tomas")[0]["go"] == "/runs?by=TO"
    run = found(client, "HY-03")[0]
    assert run["note"].startswith("Hydrometer, ")
    assert found(client, "TIN-38", exact=True)[0]["go"] == tin["go"]
    assert found(client, "SAMPLE-5")[0]["words"] == "TP4 1.6 m · T1"


def test_a_tin_that_is_free_opens_its_own_page(client):
    assert found(client, "40")[0]["go"] == "/kit/tin/40"


def post(client, path, **body):
    return client.post(f"/api/v1{path}", json=body)


def test_who_the_laboratory_is_is_a_managers_work(client, manager):
    whole = {"name": "Underford", "zone": "", "units": "SI"}
    assert post(client, "/laboratory", **whole).status_code == 403
    assert post(client, "/laboratory/marks", key="mark", file="").status_code == 403
    assert post(manager, "/laboratory", **whole, dates="tomorrow").status_code == 422
    answer = post(manager, "/laboratory", **whole | {"zone": "Europe/Atlantis"})
    assert (answer.status_code, answer.json()["field"]) == (422, "zone")
    assert post(manager, "/laboratory/marks", key="mark", file=base64.b64encode(SVG).decode()).status_code == 200
    assert post(manager, "/laboratory/marks", key="mark", file="%").json()["field"] == "file"
    mark = client.get("/laboratory/mark.svg")
    assert (mark.content, mark.headers["content-type"]) == (SVG, "image/svg+xml")
    assert "default-src 'none'" in mark.headers["content-security-policy"]
    assert client.get("/laboratory/flag.svg").status_code == 404
    assert post(manager, "/laboratory/methods", method="sieve", school="alchemy").status_code == 422


def test_a_zone_holds_at_once_and_times_stand_by_it(manager):
    try:
        assert post(manager, "/laboratory", name="Underford", zone="Asia/Kathmandu").status_code == 200
        assert 'data-zone-name="Asia/Kathmandu"' in manager.get("/bench").text
        assert "14:06:18" in manager.get("/bench").text, "08:21:18 UTC, 5:45 ahead"
    finally:
        post(manager, "/laboratory", name="Underford Ground Laboratory")
    assert "10:21:18" in manager.get("/bench").text


def test_figures_are_shown_as_a_person_likes_them(app):
    with signed_in(app, "TO") as checker:
        plain = checker.get("/runs/CP-01").text
        assert "Mg/m³" in plain
        assert post(checker, "/me/likes", units="US", decimal=",").status_code == 200
        mine = checker.get("/runs/CP-01").text
        assert ">pcf<" in mine
        assert (
            "Mg/m³</span>" not in mine.partition('data-fragment="values"')[2].partition('data-fragment="verdicts"')[0]
        )
        assert 'data-decimal=","' in mine
        parts = checker.get("/runs/CP-01/parts").json()["fragments"]["values"]
        assert ">pcf<" in parts
        assert post(checker, "/me/likes", units="cubits").json()["field"] == "units"
        assert post(checker, "/me/likes").status_code == 200
        assert ">pcf<" not in checker.get("/runs/CP-01").text


STORED_UNITS = re.compile(r"\b(kPa|mm/h|Mg/m³|kN/m³)|MN/m²|\d m\b(?! ·)")


def words_of(page):
    """What a page says, without what it draws, what it hides in attributes, and the names of places by their depth."""
    text = re.sub(r"<script\b.*?</script>|<style\b.*?</style>|<[^>]*>", " ", page, flags=re.DOTALL)
    return re.sub(r"\w+ \d+\.\d m · \w+", "", html.unescape(text))


@pytest.mark.parametrize("path", ["/plates/KS-26", "/water/KS-26", "/strength/KS-26"])
def test_a_jobs_results_are_all_in_the_units_of_who_looks(app, path):
    with signed_in(app, "TO") as checker:
        assert STORED_UNITS.search(words_of(checker.get(path).text)), "in SI it says them"
        assert post(checker, "/me/likes", units="US", stress="psi").status_code == 200
        try:
            page = checker.get(path).text
            assert not STORED_UNITS.search(words_of(page))
            assert re.search(r'"title":"[^"]*, (psi|in/h|ft)"', page), "and its pictures are drawn so"
        finally:
            post(checker, "/me/likes")


def test_a_grain_size_is_in_millimetres_for_everybody(app):
    with signed_in(app, "TO") as checker:
        before = checker.get("/samples/3").text
        assert post(checker, "/me/likes", units="US").status_code == 200
        try:
            after = checker.get("/samples/3").text
        finally:
            post(checker, "/me/likes")
    assert '"size, mm"' in after
    sizes = r'D<sub>60</sub></span></dt>\s*<dd><b>([^<]+)</b> <span class="u2">(\w+)'
    assert re.search(sizes, before).groups() == re.search(sizes, after).groups()


def test_a_sheet_is_in_the_laboratorys_units_and_its_files_in_si(client, manager):
    try:
        post(manager, "/laboratory", name="Underford", units="US", stress="tsf")
        page = client.get("/runs/CP-01/sheet").text
        assert "pcf" in page
        assert "US customary units (tsf" in page
        assert client.get("/runs/CP-01/sheet.pdf").content.startswith(b"%PDF")
        values = client.get("/runs/CP-01/run.json").json()["shown"]["values"]
        assert {v["unit"] for v in values} & {"Mg/m³"}
        assert "pcf" not in client.get("/runs/CP-01/run.csv").text
    finally:
        post(manager, "/laboratory", name="Underford Ground Laboratory")


def new_job(client):
    code = f"J{uuid.uuid4().hex[:8]}"
    post(client, "/jobs", code=code, title="A meadow")
    spot = post(client, f"/jobs/{code}/spots", code="TP1").json()["id"]
    sample = post(client, f"/spots/{spot}/samples", code="B1").json()["id"]
    return code, spot, sample


def test_ground_is_changed_closed_opened_and_deleted_through_its_doors(client):
    code, spot, sample = new_job(client)
    assert post(client, f"/samples/{sample}/change", code="B7", mass_g="1800", container="a bag").status_code == 200
    page = client.get(f"/samples/{sample}").text
    assert "1.8 kg" in page
    assert post(client, f"/samples/{sample}/change", code="B7", mass_g="0").json()["field"] == "mass_g"
    assert post(client, f"/spots/{spot}/change", code="TP9", kind="lake").status_code == 422
    assert post(client, f"/spots/{spot}/delete").status_code == 403
    assert post(client, f"/samples/{sample}/close").status_code == 200
    assert post(client, "/runs", sample_id=sample, method="sieve").status_code == 403
    assert "It is closed" in client.get(f"/start?sample={sample}").text
    assert post(client, f"/samples/{sample}/open").status_code == 200
    assert post(client, f"/samples/{sample}/burn").status_code == 404
    for path in (f"/samples/{sample}", f"/spots/{spot}", f"/jobs/{code}"):
        assert post(client, f"{path}/delete").status_code == 200
    assert client.get(f"/ground/{code}").status_code == 404


def test_a_run_goes_aside_and_comes_back(client):
    _, _, sample = new_job(client)
    code = post(client, "/runs", sample_id=sample, method="sieve").json()["code"]
    assert post(client, f"/runs/{code}/aside", reason="").json()["field"] == "reason"
    assert post(client, f"/runs/{code}/aside", reason="the wrong bag").status_code == 200
    assert code not in client.get("/runs").text
    assert code in client.get("/runs?state=aside").text
    assert "1 set aside" in client.get(f"/samples/{sample}").text
    assert client.get(f"/runs/{code}").status_code == 200
    assert post(client, f"/runs/{code}/back").status_code == 200
    assert code in client.get("/runs").text


def test_a_schedule_is_ticked_pasted_changed_and_withdrawn(client):
    code, _, sample = new_job(client)
    due = "2026-05-20"
    page = f"/ground/{code}/schedule"
    assert post(client, f"/jobs/{code}/schedule/tests", tests=[], due_on=due).json()["field"] == "tests"
    assert post(client, f"/jobs/{code}/schedule/tests", tests=["5:sieve"], due_on=due).json()["field"] == "tests"
    assert post(client, f"/jobs/{code}/schedule/tests", tests=[f"{sample}:sieve"], due_on=due).status_code == 200
    refused = post(client, "/pasted/schedule", pasted="B1;alchemy", job=code, due_on=due).json()
    assert (refused["field"], refused["message"]) == ("pasted", "line 1: Test not recognised: 'alchemy'")
    pasted = post(client, "/pasted/schedule", pasted="B1;compaction\nB1;liquid limit", job=code, due_on=due)
    assert pasted.json()["said"] == "2 tests on the schedule."
    text = client.get(page).text
    assert text.count("by 20 May") == 3
    assert "not weighed" in text, "what the tests ask for stands beside what came in"
    owed = text.partition('id="owed-')[2].partition('"')[0]
    assert post(client, f"/schedule/{owed}/withdraw", reason="").json()["field"] == "reason"
    assert post(client, f"/schedule/{owed}/withdraw", reason="not needed").status_code == 200
    assert "withdrawn by IM: not needed" in client.get(page).text
    assert post(client, f"/schedule/{owed}/change", due_on="2026-06-01", wanted_g="400").status_code == 200
    assert "by 01 Jun" in client.get(page).text
    assert post(client, "/schedule/999999/withdraw", reason="x").status_code == 404


def test_all_runs_are_filtered_by_address_paged_and_told_as_csv(client):
    assert client.get("/runs?method=liquid_limit&state=checked").text.count("/sheet") == 1
    for wrong in ("state=lost", "since=yesterday", "sample=x"):
        assert client.get(f"/runs?{wrong}").status_code == 422
    assert "No run is like that" in client.get("/runs?since=2031-01-01").text
    assert "LL-03" in client.get("/runs?by=IM&job=ks-26&method=liquid_limit&since=2026-05-01&until=2026-05-12").text
    answer = client.get("/runs.csv?method=liquid_limit")
    rows = list(csv.DictReader(io.StringIO(answer.text.removeprefix("\ufeff"))))
    assert {row["run"] for row in rows} >= {"LL-01", "LL-02", "LL-03"}
    assert next(r for r in rows if r["run"] == "LL-01")["liquid limit, %"] == "52"
    every = list(csv.DictReader(io.StringIO(client.get("/runs.csv").text.removeprefix("\ufeff"))))
    assert len(every) > len(rows)
    assert "liquid limit" in next(r for r in every if r["run"] == "LL-01")["results"]


def test_a_job_leaves_as_a_zip_and_only_a_manager_brings_one_in(client, manager):
    answer = client.get("/ground/KS-26/job.zip")
    assert answer.headers["content-type"] == "application/zip"
    names = zipfile.ZipFile(io.BytesIO(answer.content)).namelist()
    assert "manifest.json" in names
    content = base64.b64encode(answer.content).decode()
    assert post(client, "/jobs/import", file=content, code="KS-27").status_code == 403
    refused = post(manager, "/jobs/import", file=content, code="KS-27")
    assert (refused.status_code, "here already" in refused.json()["message"]) == (409, True)
    assert post(manager, "/jobs/import", file=content).json()["field"] == "code"
    assert post(manager, "/jobs/import", file="%%").json()["field"] == "file"
    assert client.get("/ground/NOWHERE/job.zip").status_code == 404


def test_the_oven_is_told_by_shelves_and_a_shelf_is_said_of_what_lies_there(client):
    page = client.get("/oven").text
    assert "3 tins may come out" in page
    assert page.index("low") < page.index("middle")
    shelved = {"run": "LL-05", "tin": "17", "shelf": "top"}
    assert post(client, "/oven/shelf", **shelved).status_code == 200
    assert post(client, "/oven/shelf", **shelved | {"tin": "1"}).json()["field"] == "tin"
    assert post(client, "/oven/shelf", **shelved | {"run": "LL-01"}).status_code == 403
    assert 'data-run="LL-05"' in client.get("/oven/round").text
    assert 'data-run="WC-04"' in client.get("/oven/round?tin=8").text


def test_a_glance_at_an_instrument_gives_its_figure_and_only_that_counts_as_its_own(client):
    figure = client.get("/api/v1/instruments/FR-1/figure")
    assert figure.status_code == 200, figure.text
    assert figure.json()["simulated"] is True
    assert client.get("/api/v1/instruments/NONE/figure").json()["field"] == "instrument"


def test_kit_is_registered_with_its_mass_and_retired_through_its_doors(client):
    code = f"T{uuid.uuid4().hex[:6]}"
    made = post(client, "/kit", kind="tin", code=code, mass_g="20,5")
    assert made.json()["go"] == "/kit?new=tin"
    assert "20.50" in client.get(f"/kit/tin/{code}").text
    assert post(client, "/kit", kind="mould", code=code, mass_g="20").json()["field"] == "mass_g"
    assert post(client, f"/kit/tin/{code}/retire", reason="").json()["field"] == "reason"
    assert post(client, f"/kit/tin/{code}/retire", reason="bent").status_code == 201
    assert "retired" in client.get(f"/kit/tin/{code}").text
    assert f"/kit/tin/{code}" in client.get("/kit").text.partition("retired")[2]
    assert post(client, f"/kit/tin/{code}/back").status_code == 201
    text = f"{code};20.6\n{code}b;21"
    looked = post(client, "/pasted/tins/preview", pasted=text).json()
    assert (looked["lines"], looked["problems"]) == (2, 0)
    assert "weighed again: 20.5 g before" in looked["html"]
    assert client.get(f"/kit/tin/{code}b").status_code == 404, "nothing is kept of what was only looked at"
    pasted = post(client, "/pasted/tins", pasted=text).json()
    assert pasted["said"] == "2 tins registered."
    assert "20.60" in client.get(f"/kit/tin/{code}").text
    assert post(client, pasted["undo"]["url"].removeprefix("/api/v1"), **pasted["undo"]["body"]).status_code == 200
    assert "retired" in client.get(f"/kit/tin/{code}b").text
    assert client.get(f"/kit/tin/{code}").text.count("20.50") > 2, "weighed anew, taken back: all three stand"
    checked = post(client, "/kit/balance/B1/calibrations", masses="200 200.02", tolerance_g="0.01", certificate="K 1")
    assert checked.json()["passed"] is False
    assert "certificate K 1" in client.get("/kit/balance/B1").text
    assert post(client, "/kit/balance/B1/calibrations", masses="200 200", tolerance_g="0.01").json()["passed"] is True


def test_a_paper_comes_back_as_it_went_in_and_is_never_shown_as_a_page(client):
    file = base64.b64encode(b"%PDF-1.7 x").decode()
    body = {"mould_mass_g": "4000", "mould_volume_cm3": "944", "file": file, "file_name": "k.pdf", "certificate": "K"}
    assert post(client, "/kit/mould/M1/calibrations", **body).status_code == 201
    page = client.get("/kit/mould/M1").text
    address = page.partition('href="/api/v1/kit/mould/M1/papers/')[2].partition('"')[0]
    answer = client.get(f"/api/v1/kit/mould/M1/papers/{address}")
    assert answer.content == b"%PDF-1.7 x"
    assert answer.headers["content-disposition"].startswith("attachment")
    assert client.get("/api/v1/kit/mould/M1/papers/none").status_code == 404
    assert post(client, "/kit/mould/M1/calibrations", **body | {"done_on": "2031-01-01"}).json()["field"] == "done_on"


def test_labels_are_made_of_what_is_ticked(client):
    for address in ("/labels", "/labels?job=KS-26", "/labels?sample=5", "/labels?kind=mould"):
        assert client.get(address).status_code == 200
    answer = client.get("/labels.pdf", params={"of": ["tin:38", "sample:5"], "skip": 3})
    assert answer.content.startswith(b"%PDF")
    for params, field in (
        ({}, "of"),
        ({"of": "tin:none"}, "of"),
        ({"of": "specimen:5:none"}, "of"),
        ({"of": "moon:1"}, "of"),
        ({"of": "tin:38", "size": "a postcard"}, "size"),
        ({"of": "tin:38", "skip": 24}, "skip"),
    ):
        assert client.get("/labels.pdf", params=params).json()["field"] == field
