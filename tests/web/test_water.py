"""Water of a job on one page, the rack of several tests, and what the clock calls over HTTP."""

import re

import httpx2
import pytest

pytestmark = pytest.mark.one_database


@pytest.fixture
def client(app):
    made = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
    made.get(app.link("IM"))
    return made


def test_the_water_of_a_job_stands_on_one_page_and_estimates_do_not(client):
    page = client.get("/water/KS-26").text
    assert "/runs/WP-01" in page
    assert "/runs/MP-01" not in page, "its cylinders still drain"
    assert "/runs/RC-01" in page
    assert "Conductivity by depth" in page
    assert client.get("/water/NOPE").status_code == 404
    assert "/water/KS-26" in client.get("/ground/KS-26").text


def test_the_rack_holds_cylinders_bottles_vessels_and_cells_side_by_side(client):
    page = client.get("/rack").text
    groups = re.findall(r'class="group [^"]*"\s+aria-label="([^"]+)"', page)
    titles = {g.rsplit(" ", 1)[0] if g[-1].isdigit() else g.strip() for g in groups}
    assert {"Hydrometer", "Lime demand by pH", "Falling-head cylinders", "Water retention"} <= titles
    assert page.count('class="vessel"') >= 4 + 6 + 3 + 6
    assert "Your hands until" in page


def test_picking_a_vessel_of_many_gives_that_one_its_field(client):
    answer = client.get("/rack/live?pick=LP-01").json()["fragments"]["call"]
    assert "shake the bottles" in answer.lower()
    assert 'data-path="shakes[1].shaken_at"' in answer
    code = re.search(r'data-pick="(MP-01:\d)"', client.get("/rack").text).group(1)
    asked = client.get(f"/rack/live?pick={code}").json()["fragments"]["call"]
    number = int(code[-1])
    assert f'data-path="cylinders[{number}].readings' in asked


@pytest.mark.parametrize("code", ["MP-01", "WP-01"])
def test_a_field_slip_of_water_is_printed(client, code):
    assert client.get(f"/runs/{code}/slip.pdf").status_code == 200


@pytest.mark.parametrize("code", ["MP-01", "WP-01", "RC-01", "LP-01"])
def test_sheets_of_water_and_lime_are_made_in_every_form(client, code):
    for form in ("sheet", "sheet.pdf", "run.json", "run.csv", "tables.zip"):
        assert client.get(f"/runs/{code}/{form}").status_code == 200, form
