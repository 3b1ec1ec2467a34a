"""Plates on paper and of a job: the slip's width, the layers, the corner; a school's hours before it is chosen."""

import re
import zlib

import httpx2
import pytest

pytestmark = pytest.mark.one_database


@pytest.fixture
def client(app):
    made = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
    made.get(app.link("IM"))
    return made


def page_size_mm(pdf):
    """Width and height of a PDF's first page, mm, from whatever stream holds it."""
    texts = [pdf]
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL):
        try:
            texts.append(zlib.decompressobj().decompress(stream))
        except zlib.error:
            continue
    boxes = [re.search(rb"/MediaBox\s*\[\s*0 0 ([\d.]+) ([\d.]+)", text) for text in texts]
    wide, high = next(box for box in boxes if box).groups()
    return float(wide) / 72 * 25.4, float(high) / 72 * 25.4


@pytest.mark.parametrize("code", ["PM-01", "PM-03", "PB-01", "FV-02"])
def test_a_field_slip_is_eighty_millimetres_wide(client, code):
    answer = client.get(f"/runs/{code}/slip.pdf")
    assert answer.status_code == 200
    wide, high = page_size_mm(answer.content)
    assert wide == pytest.approx(80.0, abs=0.2)
    assert high > 100


def test_the_plates_of_a_job_stand_in_their_layer_and_out_of_its_corner(client):
    page = client.get("/plates/KS-26").text
    assert "frost blanket" in page
    rows = dict(re.findall(r'/runs/(PM-0\d)".*?(held|not held) <', page, re.DOTALL))
    assert rows == {"PM-01": "held", "PM-02": "not held"}
    assert client.get("/plates/NOPE").status_code == 404
    assert "/plates/KS-26" in client.get("/ground/KS-26").text


def test_a_school_says_how_long_it_holds_before_it_is_chosen(client):
    page = client.get("/start?sample=1").text
    options = re.findall(r"<option[^>]*>(To 0\.02 mm[^<]*)</option>", page)
    assert len(options) == 2
    assert all("on sand" in o and "on clay" in o for o in options)
