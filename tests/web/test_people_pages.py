"""Accounts through the door: pass-phrases, roles, closing, reset links, sessions; the ledger knows of each."""

import httpx2
import pytest
from sqlalchemy import text

from tests.serving import served
from vadum.tape import ground, laboratory

PHRASE = "seven wet stones"

pytestmark = pytest.mark.one_database


@pytest.fixture(scope="module")
def app(tmp_path_factory, database_kind):
    with served(tmp_path_factory.mktemp("people"), kind=database_kind) as running:
        yield running


def browser(app, login=None, passphrase=PHRASE, link=None):
    """A browser that has signed in, by name or by link."""
    client = httpx2.Client(base_url=app.address, follow_redirects=True, timeout=60)
    if link:
        client.get(link)
    elif login:
        client.post("/signin", data={"login": login, "passphrase": passphrase})
    return client


def squeezed(client, path):
    """A page's text on one line."""
    return " ".join(client.get(path, headers={"Accept": "text/html"}).text.split())


def signed_in(client):
    return client.get("/api/v1/runs").status_code == 200


def noted(app, words):
    with app.database.reading() as session:
        rows = session.execute(text("SELECT words FROM ledger WHERE kind = 'account'")).scalars()
        return any(words in row for row in rows)


def test_a_pass_phrase_is_changed_by_who_knows_the_former_and_ends_the_other_sessions(app):
    here, there = browser(app, "ilse"), browser(app, "ilse")
    assert signed_in(here)
    assert signed_in(there)
    wrong = here.post("/api/v1/me/passphrase", json={"former": "guess", "passphrase": "eight dry stones"})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "former")
    short = here.post("/api/v1/me/passphrase", json={"former": PHRASE, "passphrase": "short"})
    assert (short.status_code, short.json()["field"]) == (422, "passphrase")
    changed = here.post("/api/v1/me/passphrase", json={"former": PHRASE, "passphrase": "eight dry stones"})
    assert changed.status_code == 200
    assert signed_in(here)
    assert not signed_in(there)
    assert not signed_in(browser(app, "ilse"))
    assert signed_in(browser(app, "ilse", "eight dry stones"))
    assert noted(app, "ilse: pass-phrase changed")


def test_a_former_pass_phrase_is_not_guessed_at_for_ever(app):
    guest = browser(app, link=app.link("RV"))
    tries = [
        guest.post("/api/v1/me/passphrase", json={"former": f"guess {n}", "passphrase": "x" * 20}) for n in range(30)
    ]
    assert tries[0].status_code == 422
    assert tries[-1].status_code == 429
    assert signed_in(guest)


def test_a_manager_gives_roles_closes_accounts_and_makes_reset_links(app):
    manager, checker = browser(app, link=app.link("RV")), browser(app, "tomas")
    assert checker.post("/api/v1/people/ilse/role", json={"role": "manager"}).status_code == 403
    assert manager.post("/api/v1/people/ilse/role", json={"role": "checker"}).status_code == 200
    assert manager.post("/api/v1/people/ruth/role", json={"role": "checker"}).json()["field"] == "role"
    assert manager.post("/api/v1/people/ruth/active", json={"active": False}).status_code == 422
    assert manager.post("/api/v1/people/nobody/reset").json()["field"] == "login"
    link = manager.post("/api/v1/people/tomas/reset").json()["link"]
    assert not signed_in(checker)
    fresh = browser(app, link=link)
    assert "Choose your new pass-phrase" in fresh.get("/me").text
    # Until then it reads nothing and writes nothing: whoever made the link must not work as a colleague with it.
    assert fresh.get("/bench", headers={"Accept": "text/html"}, follow_redirects=False).headers["location"] == "/me"
    for path in ("/api/v1/runs", "/runs/LL-03/parts", "/runs/LL-03/events", "/api/v1/find?q=tin"):
        assert fresh.get(path, headers={"Accept": "application/json"}).status_code == 403, path
    posted = fresh.post("/api/v1/runs/LL-01/check", json={"tape": "0" * 64})
    assert (posted.status_code, posted.json()["message"]) == (403, "Choose your new pass-phrase first.")
    set_ = fresh.post("/api/v1/me/passphrase", json={"passphrase": "nine flat stones"})
    assert (set_.status_code, set_.json()["go"]) == (200, "/signin")
    again = fresh.post("/api/v1/me/passphrase", json={"passphrase": "ten round stones"})
    assert again.status_code == 401, "a reset link sets one pass-phrase, once, and ends with it"
    assert not signed_in(fresh), "whoever made the link does not go on as a colleague"
    assert browser(app).get(link).status_code == 403
    owner = browser(app, "tomas", "nine flat stones")
    assert signed_in(owner)
    for page in ("/bench", "/me"):
        assert "RV made a link that sets a new pass-phrase for your account" in squeezed(owner, page)
        assert "sets a new pass-phrase" not in squeezed(manager, page)
    assert manager.post("/api/v1/people/tomas/active", json={"active": False}).status_code == 200
    assert not signed_in(fresh)
    assert not signed_in(browser(app, "tomas", "nine flat stones"))
    for words in ("ilse: role technician became checker", "tomas: reset link made", "tomas: reset link used"):
        assert noted(app, words), words
    assert noted(app, "tomas: account closed")


def test_an_event_stream_ends_with_its_session(app):
    one, other = browser(app, link=app.link("RV")), browser(app, link=app.link("RV"))
    with one.stream("GET", "/runs/LL-03/events", timeout=20) as stream:
        lines = stream.iter_lines()
        ended = other.post("/api/v1/me/sessions/end")
        assert ended.json()["ended"] >= 1
        assert "event: ended" in list(lines)
    assert not signed_in(one)
    assert signed_in(other)


def test_initials_that_look_alike_are_refused(app):
    manager = browser(app, link=app.link("RV"))
    new = {"name": "Ida Moor", "role": "technician", "passphrase": "eleven stones"}
    for login, initials, field in (
        ("ida", "im", "initials"),
        ("ida", "\u0406M", "initials"),
        ("ida", "I M", "initials"),
        ("ida", "I\u200bN", "initials"),
        ("i1se", "XX", "login"),
    ):
        refused = manager.post("/api/v1/people", json={**new, "login": login, "initials": initials})
        assert (refused.status_code, refused.json()["field"]) == (422, field), (login, initials)


def test_a_manager_sets_a_band_of_the_cross_readings_and_the_card_follows(app):
    client = browser(app, link=app.link("RV"))
    page = client.get("/people").text
    assert "undrained strength" in page.lower()
    set_to = lambda value: client.post(  # noqa: E731
        "/api/v1/settings", json={"key": "band.core_to_vane_ratio", "value": value}
    )
    for wrong in ("2", "2 to 1", "a to b", "nan to 3"):
        answer = set_to(wrong)
        assert answer.status_code == 422
        assert answer.json()["field"] == "value"
    assert set_to("0,4 to 1,6").status_code == 200
    assert 'value="0.4 to 1.6"' in client.get("/people").text
    with app.database.reading() as session:
        assert laboratory.bands(session).core_to_vane_ratio == (0.4, 1.6)
        sample = next(p.sample.id for p in ground.newest_places(session) if p.sample.code == "T1")
    assert "0.4 to 1.6 of it" in client.get(f"/samples/{sample}").text
    assert set_to("0.5 to 1.25").status_code == 200
