"""Sentences are a careful colleague's: no field's name, no path, no grammar of a program in anything that is read."""

import re

import pytest

from vadum.soil.contract import paths
from vadum.soil.register import METHODS
from vadum.web.views.words import words_of

PROGRAM = re.compile(r"\b[a-z0-9]+(?:_[a-z0-9]+)+\b|\w\[\d*\]|\bNone\b|\bTrue\b|\bFalse\b|\bnan\b|\binf\b|\{\}|<[a-z]")
SYMBOL = re.compile(r"\b[A-Za-zΔ]{1,2}_[A-Za-z0-9]{1,2}\b")  # m_d, d_0: of the working's own formulas
DOUBLED = re.compile(r"\b(\w+) \1\b|  |\.\.(?!\.)|,,|;;| ,| \.(?!\d)|\(\)")
SMALL = {"that that", "had had", "1 1", "0 0"}


@pytest.mark.parametrize("name", METHODS)
def test_no_sentence_shows_a_program(name):
    wrong = []
    for part in words_of(name):
        for said in part.said:
            text = SYMBOL.sub("", said.text) if part.title.startswith("Results") else said.text
            if PROGRAM.search(text):
                wrong.append(f"{said.where}: {said.text}")
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize("name", METHODS)
def test_no_sentence_stumbles(name):
    wrong = []
    for part in words_of(name):
        for said in part.said:
            found = DOUBLED.search(said.text)
            if found and found.group() not in SMALL and not found.group().replace(" ", "").isdigit():
                wrong.append(f"{said.where}: {said.text} [{found.group()}]")
    assert not wrong, "\n".join(wrong)


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS.keys())
def test_a_caution_stands_at_a_step_that_does_what_it_warns_of(its):
    """Hot things where something is dried or hot, blades where something is mixed or cut, and so on."""
    does = {
        r"\b[Hh]ot (tins|pans|dishes|shelves|containers)": r"dr(y|ied)|oven|hot|boil",
        r"[Mm]ixer blades": r"mix|slurry|stir",
        r"[Rr]ammer": r"compact|points|ram",
        r"[Kk]entledge": r"reaction",
        r"raised vehicle": r"vehicle|wind|strip|stands",
        r"[Cc]ell pressure": r"cell|mount|saturat|pressure|consolid|shear",
        r"eyewash|quicklime": r"lime",
        r"[Mm]ercury": r"pressure|weigh|cell",
    }
    for step in its.steps:
        what = f"{step.title} {step.does}".lower()
        for caution in step.cautions:
            for warned, wanted in does.items():
                if re.search(warned, caution):
                    assert re.search(wanted, what), f"{its.name}, {step.title}: {caution}"


@pytest.mark.parametrize("its", METHODS.values(), ids=METHODS.keys())
def test_every_field_and_row_has_a_name_of_its_own(its):
    parts = [its.Record]
    while parts:
        part = parts.pop()
        for name, field in part.model_fields.items():
            assert field.title, f"{its.name}: {name} is called nothing"
            assert "_" not in field.title
            rows = paths.rows_model(part, name)
            parts += [rows] if rows is not None else []


def test_threads_are_rolled_to_the_size_of_their_school():
    its = METHODS["plastic_limit"]
    for school, mm in (("astm", "3.2"), ("bs", "3"), ("iso", "3")):
        chosen = its.schools[school]
        assert f"{chosen.thread_mm:g}" == mm
