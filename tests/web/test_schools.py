"""Schools: every page opens, a copy is tried before it is kept, and no old run changes."""

from contextlib import contextmanager
from typing import get_args

import httpx2
import pytest
from pydantic import ValidationError
from typer.testing import CliRunner

from vadum.cli import app as command
from vadum.soil.contract.school import OWN, settings_of
from vadum.soil.register import METHODS
from vadum.soil.school_check import faults
from vadum.tape import runs
from vadum.web.views.schools import changed, shown, words_of

pytestmark = pytest.mark.one_database
EVERY = [(m, s) for m in METHODS.values() for s in m.schools.shipped.values()]


@contextmanager
def client_of(app, who):
    with httpx2.Client(base_url=app.address, follow_redirects=True, timeout=30) as made:
        made.get(app.link(who).removeprefix(app.address))
        yield made


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_school_has_its_page(app, method):
    with client_of(app, "IM") as client:
        for name, school in method.schools.items():
            page = client.get(f"/schools/{method.name}/{name}")
            assert page.status_code == 200
            assert school.about[:30] in page.text.replace("&#39;", "'")
        assert client.get(f"/schools/{method.name}/none_such").status_code == 404
        assert method.title in client.get("/schools").text


@pytest.mark.parametrize(("method", "school"), EVERY, ids=lambda x: x.name)
def test_no_count_is_set_so_high_that_a_trial_of_it_would_never_end(method, school):
    for name, field in settings_of(type(school)):
        if int in {field.annotation, *get_args(field.annotation)}:
            with pytest.raises(ValidationError) as refused:
                type(school).model_validate({**school.model_dump(), name: 10**9})
            assert refused.value.errors()[0]["loc"] == (name,)


@pytest.mark.parametrize(("method", "school"), EVERY, ids=lambda x: x.name)
def test_what_a_page_shows_can_be_typed_back(method, school):
    typed = {name: shown(getattr(school, name)) for name, _ in settings_of(type(school))}
    assert changed(school, typed) == {}
    assert all(words_of(name) for name in typed)


@pytest.fixture
def asked():
    return {
        "based_on": "d2166",
        "name": "our_press",
        "title": "Our press, slower",
        "about": "The press of this laboratory runs at most 1.5 % a minute.",
        "settings": {"most_rate_percent_min": "1,5"},
    }


def test_a_copy_is_kept_and_changes_no_old_run(app, asked):
    with client_of(app, "RV") as manager:
        old = manager.post("/api/v1/runs", json={"sample_id": 5, "method": "unconfined_compression"}).json()["code"]
        answer = manager.post("/api/v1/schools/unconfined_compression", json=asked)
        assert answer.status_code == 201, answer.text
        new = manager.post(
            "/api/v1/runs", json={"sample_id": 5, "method": "unconfined_compression", "school": "our_press"}
        ).json()["code"]
        file = OWN.folder / "unconfined_compression" / "our_press.toml"
        # The file is changed behind the program's back: a run keeps what it was begun with.
        file.write_text(file.read_text("utf-8").replace("1.5", "1.2"), "utf-8")
        with app.database.reading() as session:
            rates = {
                code: runs.open_tape(run, runs.read_tape(session, run.id)).school.most_rate_percent_min
                for code in (old, new)
                if (run := runs.find(session, code))
            }
        assert rates == {old: 2.0, new: 1.5}
        assert METHODS["unconfined_compression"].school("our_press").most_rate_percent_min == 1.2
        assert file.read_text("utf-8").startswith("# Made by RV on 2026-05-12")
        assert [f.suffix for f in file.parent.iterdir()] == [".toml"], "nothing half done is left"
        assert "1.2" in manager.get("/schools/unconfined_compression/our_press").text
        again = manager.post("/api/v1/schools/unconfined_compression", json=asked)
        assert (again.status_code, again.json()["field"]) == (422, "name")
        file.unlink()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"settings": {}}, "settings"),
        ({"settings": {"most_rate_percent_min": "fast"}}, "most_rate_percent_min"),
        ({"settings": {"no_such": "1"}}, "no_such"),
        ({"name": "../up"}, "name"),
        ({"name": "d2166"}, "name"),
        ({"based_on": "none"}, "based_on"),
        ({"settings": {"strength_words": "loudly"}}, "strength_words"),
        ({"settings": {"stop_strain_percent": ""}}, "stop_strain_percent"),
        ({"settings": {"least_slenderness_ratio": "2.4"}}, "settings"),  # good soils would fail by it
        ({"settings": {"called_percent": ""}}, "called_percent"),
        ({"settings": {"called_percent": "0, 0"}}, "settings"),
        ({"settings": {"report_to_kpa": "0"}}, "report_to_kpa"),
        ({"settings": {"stop_strain_percent": "-5"}}, "settings"),
        ({"settings": {"stop_strain_percent": "1e9"}}, "stop_strain_percent"),  # would be tried for days
        ({"settings": {"report_to_kpa": "0.000001"}}, "report_to_kpa"),
        ({"title": "a\u202eb"}, "title"),
    ],
)
def test_a_copy_that_nobody_could_work_by_is_refused(app, asked, change, field):
    with client_of(app, "RV") as manager:
        answer = manager.post("/api/v1/schools/unconfined_compression", json={**asked, **change})
        assert answer.status_code == 422
        assert answer.json()["field"] == field
    assert "our_press" not in METHODS["unconfined_compression"].schools


def test_only_a_manager_makes_one(app, asked):
    with client_of(app, "IM") as client:
        assert client.post("/api/v1/schools/unconfined_compression", json=asked).status_code == 403


@pytest.mark.parametrize("method", METHODS.values(), ids=METHODS)
def test_every_shipped_school_passes_its_trials(method):
    for school in method.schools.shipped.values():
        assert faults(method, school) == [], school.name


def test_a_file_is_tried_from_the_command_line(tmp_path):
    folder = tmp_path / "unconfined_compression"
    folder.mkdir()
    words = 'title = "t"\nstandard = "s"\nabout = "a"\nbased_on = "d2166"\n'
    good, bad, odd = folder / "good.toml", folder / "bad.toml", folder / "odd.toml"
    good.write_text(f"{words}most_rate_percent_min = 1.9\n")
    bad.write_text(f"{words}least_slenderness_ratio = 2.4\n")
    odd.write_text(f"{words}stop_strain = 3\n")
    assert CliRunner().invoke(command, ["school", "check", str(good)]).exit_code == 0
    said = CliRunner().invoke(command, ["school", "check", str(bad)])
    assert said.exit_code == 2
    assert "measured well" in said.output
    assert CliRunner().invoke(command, ["school", "check", str(odd)]).exit_code != 0
