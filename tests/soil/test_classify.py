"""Classes: independent cases, every branch of the decision trees, the path, and what could flip it."""

import tomllib
from pathlib import Path

import pytest

from vadum.soil.classify.aashto import aashto
from vadum.soil.classify.iso import iso
from vadum.soil.classify.national import bs5930, din18196, is1498
from vadum.soil.classify.path import Figure, flip_verdict
from vadum.soil.classify.uscs import Seen, uscs
from vadum.soil.classify.usda import fine_earth_percent, usda
from vadum.soil.shared.grading import GradePoint, shares_percent

CASES = tomllib.loads((Path(__file__).parents[1] / "examples/classify/independent.toml").read_text("utf-8"))


def figures(values):
    return {name: Figure(float(value), 0.01) for name, value in values.items()}


@pytest.mark.parametrize("case", CASES["uscs"], ids=lambda c: c["id"])
def test_independent_unified_classes_agree(case):
    found = uscs(figures(case["figures"]), Seen(nonplastic=case["nonplastic"]))
    assert (found.symbol, found.name) == (case["symbol"], case["name"])


@pytest.mark.parametrize("case", CASES["aashto"], ids=lambda c: c["id"])
def test_independent_aashto_classes_agree(case):
    found = aashto(figures(case["figures"]), case["nonplastic"])
    assert found.symbol == case["symbol"]


@pytest.mark.parametrize("case", CASES["usda"], ids=lambda c: c["id"])
def test_independent_textures_agree(case):
    shares = fine_earth_percent(*case["finer"])
    assert shares == pytest.approx(case["shares"], abs=0.02)
    found = usda(figures(dict(zip(("sand", "silt", "clay"), shares, strict=True))), case["fragments"])
    assert found.name == case["name"]


# gravel, sand, fines, LL, PI, Cu, Cc, oven-dried ratio, what was seen, symbol, name.
# Drawn from the flow charts of D2487 by hand, one for each way through.
PLASTIC = Seen()
NP = Seen(nonplastic=True)
UNIFIED = [
    (88, 9, 3, None, None, 5.2, 1.4, None, NP, "GW", "well-graded gravel"),
    (70, 27, 3, None, None, 5.2, 1.4, None, NP, "GW", "well-graded gravel with sand"),
    (88, 9, 3, None, None, 3.2, 1.4, None, NP, "GP", "poorly graded gravel"),
    (88, 9, 3, None, None, 5.2, 0.6, None, NP, "GP", "poorly graded gravel"),
    (70, 27, 3, None, None, 5.2, 3.6, None, NP, "GP", "poorly graded gravel with sand"),
    (60, 32, 8, None, None, 9, 2, None, NP, "GW-GM", "well-graded gravel with silt and sand"),
    (82, 10, 8, 40, 22, 9, 2, None, PLASTIC, "GW-GC", "well-graded gravel with clay"),
    (82, 10, 8, 24, 6, 9, 2, None, PLASTIC, "GW-GC", "well-graded gravel with silty clay"),
    (60, 32, 8, 60, 20, 3, 2, None, PLASTIC, "GP-GM", "poorly graded gravel with silt and sand"),
    (60, 32, 8, 60, 40, 3, 2, None, PLASTIC, "GP-GC", "poorly graded gravel with clay and sand"),
    (70, 10, 20, None, None, None, None, None, NP, "GM", "silty gravel"),
    (50, 30, 20, 40, 22, None, None, None, PLASTIC, "GC", "clayey gravel with sand"),
    (50, 30, 20, 24, 6, None, None, None, PLASTIC, "GC-GM", "silty, clayey gravel with sand"),
    (50, 30, 20, 40, 8, None, None, 0.6, PLASTIC, "GM", "silty gravel with organic fines and sand"),
    (5, 92, 3, None, None, 7, 2, None, NP, "SW", "well-graded sand"),
    (20, 77, 3, None, None, 7, 2, None, NP, "SW", "well-graded sand with gravel"),
    (5, 92, 3, None, None, 5, 2, None, NP, "SP", "poorly graded sand"),
    (5, 87, 8, None, None, 7, 2, None, NP, "SW-SM", "well-graded sand with silt"),
    (5, 87, 8, 40, 22, 7, 2, None, PLASTIC, "SW-SC", "well-graded sand with clay"),
    (20, 72, 8, None, None, 4, 2, None, NP, "SP-SM", "poorly graded sand with silt and gravel"),
    (5, 87, 8, 60, 40, 4, 2, None, PLASTIC, "SP-SC", "poorly graded sand with clay"),
    (5, 87, 8, 60, 30, 7, 2, 0.6, PLASTIC, "SW-SC", "well-graded sand with clay and organic fines"),
    (5, 65, 30, None, None, None, None, None, NP, "SM", "silty sand"),
    (20, 50, 30, 40, 22, None, None, None, PLASTIC, "SC", "clayey sand with gravel"),
    (5, 65, 30, 24, 6, None, None, None, PLASTIC, "SC-SM", "silty, clayey sand"),
    (0, 6, 94, 71, 45, None, None, None, PLASTIC, "CH", "fat clay"),
    (0, 6, 94, 71, 20, None, None, None, PLASTIC, "MH", "elastic silt"),
    (3, 19, 78, 44, 22, None, None, None, PLASTIC, "CL", "lean clay with sand"),
    (15, 7, 78, 44, 22, None, None, None, PLASTIC, "CL", "lean clay with gravel"),
    (3, 37, 60, 44, 22, None, None, None, PLASTIC, "CL", "sandy lean clay"),
    (18, 22, 60, 44, 22, None, None, None, PLASTIC, "CL", "sandy lean clay with gravel"),
    (32, 8, 60, 44, 22, None, None, None, PLASTIC, "CL", "gravelly lean clay"),
    (22, 18, 60, 44, 22, None, None, None, PLASTIC, "CL", "gravelly lean clay with sand"),
    (0, 6, 94, 24, 6, None, None, None, PLASTIC, "CL-ML", "silty clay"),
    (0, 6, 94, 22, 3, None, None, None, PLASTIC, "ML", "silt"),
    (0, 40, 60, 40, 8, None, None, None, PLASTIC, "ML", "sandy silt"),
    (0, 6, 94, None, None, None, None, None, NP, "ML", "silt"),
    (0, 6, 94, 44, 22, None, None, 0.6, PLASTIC, "OL", "organic clay"),
    (0, 6, 94, 44, 10, None, None, 0.6, PLASTIC, "OL", "organic silt"),
    (0, 6, 94, 22, 3, None, None, 0.6, PLASTIC, "OL", "organic silt"),
    (0, 6, 94, 71, 45, None, None, 0.6, PLASTIC, "OH", "organic clay"),
    (0, 6, 94, 71, 20, None, None, 0.6, PLASTIC, "OH", "organic silt"),
    (0, 6, 94, 71, 20, None, None, 0.9, PLASTIC, "MH", "elastic silt"),
    (0, 6, 94, None, None, None, None, None, Seen(peat=True), "PT", "peat"),
    (88, 9, 3, None, None, 5.2, 1.4, None, Seen(True, False, True), "GW", "well-graded gravel with cobbles"),
    (70, 27, 3, None, None, 5, 1, None, Seen(True, False, True), "GW", "well-graded gravel with sand and cobbles"),
]
NAMES = ("gravel", "sand", "fines", "liquid limit", "plasticity index", "Cu", "Cc", "oven-dried LL ratio")


def unified(row):
    values = {name: value for name, value in zip(NAMES, row[:8], strict=True) if value is not None}
    return uscs(figures(values), row[8])


@pytest.mark.parametrize("row", UNIFIED, ids=lambda r: f"{r[9]} {r[10]}")
def test_every_way_through_the_unified_flow_charts(row):
    found = unified(row)
    assert (found.symbol, found.name) == row[9:]


def answers(found):
    return {(b.key, b.answer) for f in found for b in f.path}


def test_every_branch_of_the_unified_system_is_answered_both_ways():
    reached = answers(unified(row) for row in UNIFIED)
    keys = ("nonplastic", "organic", "ll50", "a_line", "pi4", "pi7", "plus30", "plus15", "sand_more", "gravel15")
    keys += ("sand15", "cu_g", "cu_s", "cc1", "cc3", "gravel_more", "fines5", "fines12", "other15", "fine")
    assert {(k, a) for k in keys for a in (True, False)} | {("peat", True)} <= reached
    symbols = "GW GP GM GC GC-GM GW-GM GW-GC GP-GM GP-GC SW SP SM SC SC-SM SW-SM SW-SC SP-SM SP-SC CL CH ML MH CL-ML"
    assert set(f"{symbols} OL OH PT".split()) == {unified(row).symbol for row in UNIFIED}


# passing 2, 0.425, 0.075 mm, LL, PI (None: nonplastic), class; by hand from the table of M 145.
AASHTO = [
    (42, 22, 8, None, None, "A-1-a(0)"),
    (42, 22, 8, 25, 5, "A-1-a(0)"),
    (60, 22, 8, None, None, "A-1-b(0)"),
    (42, 40, 8, 25, 5, "A-1-b(0)"),
    (42, 22, 20, 25, 5, "A-1-b(0)"),
    (42, 22, 8, 25, 9, "A-2-4(0)"),
    (95, 70, 6, None, None, "A-3(0)"),
    (95, 70, 6, 25, 2, "A-2-4(0)"),
    (95, 50, 12, 25, 8, "A-2-4(0)"),
    (95, 70, 14, None, None, "A-2-4(0)"),
    (95, 70, 30, 30, 8, "A-2-4(0)"),
    (95, 70, 30, 45, 8, "A-2-5(0)"),
    (95, 70, 30, 30, 18, "A-2-6(1)"),
    (95, 70, 30, 55, 30, "A-2-7(3)"),
    (92, 70, 40, 22, 2, "A-4(0)"),
    (99, 96, 80, None, None, "A-4(0)"),
    (100, 94, 72, 48, 9, "A-5(8)"),
    (100, 90, 60, 35, 15, "A-6(7)"),
    (100, 95, 80, 60, 28, "A-7-5(25)"),
    (100, 95, 80, 50, 30, "A-7-6(24)"),
]


def american(row):
    names = ("passing 2 mm", "passing 0.425 mm", "passing 0.075 mm", "liquid limit", "plasticity index")
    values = {name: value for name, value in zip(names, row[:5], strict=True) if value is not None}
    return aashto(figures(values), row[4] is None)


@pytest.mark.parametrize("row", AASHTO, ids=lambda r: r[5])
def test_every_group_of_m_145(row):
    assert american(row).symbol == row[5]


def test_every_branch_of_m_145_is_answered_both_ways():
    reached = answers(american(row) for row in AASHTO)
    keys = ("granular", "silt_ll41", "silt_pi10", "a75", "a1_p15", "a1a_p50", "a1a_p30", "a1a_pi6", "a1b_p25")
    keys += ("a1b_p50", "a1b_pi6", "a3_p10", "a3_p51", "a3_np", "a2_ll41", "a2_pi10")
    assert {(k, a) for k in keys for a in (True, False)} <= reached


def test_a_negative_group_index_counts_as_nothing_and_says_so():
    assert "below 0" in american(AASHTO[14]).notes[0]


# The corners of the texture triangle's classes, by the manual's definitions.
TEXTURES = [
    (92, 5, 3, "sand"),
    (82, 12, 6, "loamy sand"),
    (65, 25, 10, "sandy loam"),
    (50, 45, 5, "sandy loam"),
    (40, 40, 20, "loam"),
    (20, 65, 15, "silt loam"),
    (30, 60, 10, "silt loam"),
    (8, 86, 6, "silt"),
    (60, 15, 25, "sandy clay loam"),
    (50, 20, 30, "sandy clay loam"),
    (30, 47, 23, "loam"),
    (32, 35, 33, "clay loam"),
    (12, 54, 34, "silty clay loam"),
    (50, 12, 38, "sandy clay"),
    (48, 10, 42, "sandy clay"),
    (5, 48, 47, "silty clay"),
    (20, 20, 60, "clay"),
]


@pytest.mark.parametrize("row", TEXTURES, ids=lambda r: f"{r[3]} {r[0]}/{r[1]}/{r[2]}")
def test_every_texture_class(row):
    assert usda(figures(dict(zip(("sand", "silt", "clay"), row[:3], strict=True)))).symbol == row[3]


def test_all_twelve_textures_cover_the_triangle():
    found = set()
    for clay in range(0, 101, 2):
        for silt in range(0, 101 - clay, 2):
            shares = {"sand": 100 - clay - silt, "silt": silt, "clay": clay}
            found.add(usda(figures(shares)).symbol)
    assert found == {row[3] for row in TEXTURES}


def test_rock_fragments_stand_before_the_texture():
    soil = figures({"sand": 40, "silt": 40, "clay": 20})
    assert [usda(soil, f).name for f in (10, 20, 40, 70)] == [
        "loam",
        "gravelly loam",
        "very gravelly loam",
        "extremely gravelly loam",
    ]


@pytest.mark.parametrize(
    ("values", "nonplastic", "symbol", "name"),
    [
        (
            {"gravel": 2, "sand": 8, "fines": 90, "liquid limit": 46, "plasticity index": 24},
            False,
            "Cl",
            "intermediate",
        ),
        (
            {"gravel": 2, "sand": 33, "fines": 65, "liquid limit": 30, "plasticity index": 5},
            False,
            "saSi",
            "sandy silt",
        ),
        (
            {"gravel": 22, "sand": 28, "fines": 50, "liquid limit": 75, "plasticity index": 45},
            False,
            "grsaCl",
            "very high",
        ),
        ({"gravel": 5, "sand": 75, "fines": 20, "clay": 8}, False, "clSa", "clayey sand"),
        ({"gravel": 5, "sand": 75, "fines": 20}, True, "siSa", "silty sand"),
        ({"gravel": 60, "sand": 36, "fines": 4}, True, "saGr", "sandy gravel"),
        ({"gravel": 90, "sand": 8, "fines": 2}, True, "Gr", "gravel"),
    ],
)
def test_the_short_iso_name(values, nonplastic, symbol, name):
    found = iso(figures(values), nonplastic)
    assert found.symbol == symbol
    assert name in found.name


def test_the_path_shows_the_figure_that_decided_each_branch():
    found = unified(UNIFIED[27])
    assert [b.key for b in found.path][:4] == ["fine", "nonplastic", "ll50", "a_line"]
    assert found.path[0].found == "fines 78 ≥ 50 %"
    assert found.path[2].found == "liquid limit 44 < 50 %"
    assert not found.path[2].answer


def test_a_figure_within_its_uncertainty_of_a_boundary_could_flip_the_class():
    soil = figures({"gravel": 0, "sand": 6, "fines": 94}) | {
        "liquid limit": Figure(49.4, 0.8),
        "plasticity index": Figure(27.0, 0.5),
    }
    found = uscs(soil)
    assert found.symbol == "CL"
    assert [(f.figure, f.becomes) for f in found.flips] == [("liquid limit", "CH")]
    assert "50 or more" in found.flips[0].question
    verdict = flip_verdict(found)
    assert verdict.level == "watch"
    assert "could be CH" in verdict.found


def test_shares_that_belong_together_move_together():
    soil = {"gravel": Figure(5), "sand": Figure(44.8), "fines": Figure(50.2, 0.5), "liquid limit": Figure(44, 0.1)}
    found = uscs(soil | {"plasticity index": Figure(22, 0.1)})
    assert found.symbol == "CL"
    assert ("fines", "SC") in {(f.figure, f.becomes) for f in found.flips}


def test_a_class_far_from_its_boundaries_is_clear():
    verdict = flip_verdict(unified(UNIFIED[25]))
    assert verdict.level == "fine"
    assert flip_verdict(uscs({})) is None


def test_a_missing_figure_is_named_and_the_path_so_far_is_kept():
    found = uscs(figures({"gravel": 2, "sand": 8, "fines": 90}))
    assert (found.symbol, found.missing) == ("", ("liquid limit",))
    assert [b.key for b in found.path] == ["fine", "nonplastic"]


def test_a_group_index_that_moves_by_one_is_no_other_class():
    row = (100, 90, 60, 35, 15, "A-6(7)")
    soil = {
        n: Figure(v, 0.6) for n, v in zip(("passing 2 mm", "passing 0.425 mm", "passing 0.075 mm"), row, strict=False)
    }
    found = aashto(soil | {"liquid limit": Figure(35, 0.6), "plasticity index": Figure(15, 0.6)})
    assert found.flips == ()


FINE = {"gravel": 5.0, "sand": 20.0, "fines": 75.0, "clay": 30.0}
COARSE = {"gravel": 25.0, "sand": 72.0, "fines": 3.0, "Cu": 7.0, "Cc": 1.4}


@pytest.mark.parametrize(
    ("system", "soil", "limits", "symbol"),
    [
        (bs5930, FINE, (34.0, 18.0), "CL"),
        (bs5930, FINE, (34.9, 5.0), "ML"),
        (bs5930, FINE, (62.0, 40.0), "CH"),
        (bs5930, FINE, (95.0, 60.0), "CE"),
        (bs5930, FINE | {"sand": 45.0, "fines": 50.0}, (42.0, 22.0), "CIS"),
        (bs5930, COARSE, None, "SW"),
        (bs5930, COARSE | {"Cc": 0.6}, None, "SP"),
        (bs5930, COARSE | {"sand": 63.0, "fines": 12.0}, (30.0, 3.0), "SWM"),
        (bs5930, COARSE | {"gravel": 50.0, "sand": 30.0, "fines": 20.0}, (40.0, 20.0), "GC"),
        (din18196, FINE, (34.0, 18.0), "TL"),
        (din18196, FINE, (34.0, 4.0), "UL"),
        (din18196, FINE, (50.0, 28.0), "TM"),
        (din18196, FINE, (50.5, 28.0), "TA"),
        (din18196, COARSE, None, "SW"),
        (din18196, COARSE | {"Cu": 4.0}, None, "SE"),
        (din18196, COARSE | {"Cc": 4.0}, None, "SI"),
        (din18196, COARSE | {"gravel": 45.0, "sand": 45.0, "fines": 10.0}, (40.0, 20.0), "GT"),
        (din18196, COARSE | {"gravel": 45.0, "sand": 30.0, "fines": 25.0}, (30.0, 3.0), "GU*"),
        (is1498, FINE, (34.0, 18.0), "CL"),
        (is1498, FINE, (42.0, 22.0), "CI"),
        (is1498, FINE, (56.0, 20.0), "MH"),
        (is1498, FINE, (24.0, 6.0), "CL-ML"),
        (is1498, COARSE, None, "SW"),
        (is1498, COARSE | {"sand": 67.0, "fines": 8.0}, (40.0, 20.0), "SW-SC"),
        (is1498, COARSE | {"sand": 50.0, "fines": 25.0}, (24.0, 6.0), "SM-SC"),
    ],
)
def test_three_national_systems_name_a_soil(system, soil, limits, symbol):
    figures = {name: Figure(value, unit="" if name in ("Cu", "Cc") else "%") for name, value in soil.items()}
    if limits:
        figures |= {"liquid limit": Figure(limits[0]), "plasticity index": Figure(limits[1])}
    found = system(figures, nonplastic=False)
    assert found.symbol == symbol, found.path
    assert "fairly sure" in found.source


def test_a_national_system_says_what_it_waits_for():
    assert bs5930({}).missing == ("fines",)
    assert is1498({"fines": Figure(80.0)}).missing == ("plasticity index",)


def test_soil_science_shares_split_at_two_hundredths():
    points = [GradePoint(10.0, 100.0), GradePoint(2.0, 80.0), GradePoint(0.02, 30.0), GradePoint(0.002, 10.0)]
    shares = shares_percent(points, "international")
    found = [shares[name] for name in ("gravel", "sand", "silt", "clay")]
    assert found == pytest.approx([20.0, 50.0, 20.0, 10.0])
