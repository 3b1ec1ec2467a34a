"""The soil card: all that is known of one sample, computed from its runs."""

from collections.abc import Sequence

from vadum.soil.classify.aashto import aashto
from vadum.soil.classify.iso import iso
from vadum.soil.classify.national import bs5930, din18196, is1498
from vadum.soil.classify.path import Classified, Figure, Figures
from vadum.soil.classify.uscs import Seen, uscs
from vadum.soil.classify.usda import KINDS, fine_earth_percent, fragments_volume_percent, usda
from vadum.soil.contract.numerics import plain, rounded, significant_step
from vadum.soil.contract.outcome import Frozen, Table, Verdict
from vadum.soil.shared.grading import EDGES, System
from vadum.soil.shared.plasticity import limits_series
from vadum.soil.soil_card.bands import Bands
from vadum.soil.soil_card.cross_readings import cross_readings, relative_compaction
from vadum.soil.soil_card.evidence import Evidence, Known, Told
from vadum.soil.soil_card.friction import angles, undrained
from vadum.soil.soil_card.groups import Joined, several_rings, three_efforts, three_in_place
from vadum.soil.soil_card.limits import FINE_PART_MM, activity, limits, liquidity, natural_water, nonplastic
from vadum.soil.soil_card.limits import figures as limit_figures
from vadum.soil.soil_card.merged import Merged, merged

RC = "relative_compaction_percent"
USUAL_FINE_EARTH_MG_M3 = 1.6  # where no density was measured; said with a # in the class's notes


class Fact(Frozen):
    """One line of the card: a figure as it is reported, its unit, and the run it comes from."""

    key: str
    symbol: str
    name: str
    reported: str
    unit: str
    code: str
    provisional: bool = False


class Card(Frozen):
    """Everything on the card."""

    consistency: tuple[Fact, ...] = ()
    grading: tuple[Fact, ...] = ()
    shares: dict[str, tuple[Fact, ...]] = {}
    density: tuple[Fact, ...] = ()
    bearing: tuple[Fact, ...] = ()
    strength: tuple[Fact, ...] = ()
    water: tuple[Fact, ...] = ()
    classes: tuple[Classified, ...] = ()
    readings: tuple[Verdict, ...] = ()
    series: dict[str, Table] = {}


def _fact(key: str, known: Known | None) -> list[Fact]:
    if known is None:
        return []
    return [
        Fact(
            key=key,
            symbol=known.symbol,
            name=known.name,
            reported=known.reported,
            unit=known.unit,
            code=known.code,
            provisional=known.provisional,
        )
    ]


def _consistency(evidence: Evidence, fine_share: float | None) -> list[Fact]:
    facts = _fact("water_content", natural_water(evidence))
    facts += _fact("liquid_limit", evidence.known("liquid_limit", "liquid_limit_percent"))
    facts += _fact("plastic_limit_percent", evidence.known("plastic_limit", "plastic_limit_percent"))
    both, loose = limits(evidence), nonplastic(evidence)
    if loose:
        facts.append(Fact(key="np", symbol="PI", name="plasticity index", reported="NP", unit="", code=""))
    elif both is not None:
        facts.append(
            Fact(
                key="plasticity_index_percent",
                symbol="PI",
                name="plasticity index",
                reported=both.reported,
                unit="%",
                code=both.codes,
                provisional=both.liquid.provisional or both.plastic.provisional,
            )
        )
    ratio = evidence.oven_dried_ratio()
    if ratio:
        name = "liquid limit, oven-dried over not dried"
        facts.append(
            Fact(key="organic", symbol="", name=name, reported=rounded(ratio[0], 0.01), unit="", code=ratio[1])
        )
    wet = liquidity(evidence, fine_share)
    if wet:
        part = " of the part below 0.425 mm" if fine_share is not None and fine_share < 100 else ""
        name = f"liquidity index{part}: {wet[1]}"
        facts.append(Fact(key="li", symbol="LI", name=name, reported=rounded(wet[0], 0.01), unit="", code=""))
    active = activity(evidence)
    if active:
        name = f"activity: {active[1]}"
        facts.append(Fact(key="a", symbol="A", name=name, reported=rounded(active[0], 0.01), unit="", code=""))
    return facts


def _density(evidence: Evidence) -> list[Fact]:
    facts = _fact("specific_gravity", evidence.known("specific_gravity", "specific_gravity_ratio"))
    keys = ("dry_density_mg_m3", "fine_earth_density_mg_m3", "void_ratio", "saturation_percent")
    for method in ("ring_density", "pit_density"):
        for key in keys:
            facts += _fact(f"{method}_{key}", evidence.known(method, key))
    facts += _joined(several_rings(evidence))
    for key in ("maximum_dry_density_mg_m3", "optimum_water_percent", "corrected_dry_density_mg_m3"):
        facts += _fact(key, evidence.known("compaction", key))
    for dry, most, share in relative_compaction(evidence):
        code = f"{dry.code} / {most.code}"
        own = next((v for t in evidence.told if t.code == dry.code for v in t.outcome.values if v.key == RC), None)
        effort = next((t.school.title for t in evidence.told if t.code == most.code), "")
        name = f"relative compaction, of {effort[:1].lower()}{effort[1:]}" if effort else "relative compaction"
        reported = own.reported if own and own.final else rounded(share, 0.1)
        facts.append(Fact(key="rc", symbol="RC", name=name, reported=reported, unit="%", code=code))
    return facts


def _bearing(evidence: Evidence) -> list[Fact]:
    """Bearing ratio of mould and ground with what stood beside them; a bound that was proved stands in its words."""
    facts = []
    for method in ("cbr", "field_cbr"):
        for key in ("bearing_ratio_percent", "swell_percent", "water_content_percent"):
            facts += _fact(f"{method}_{key}", evidence.known(method, key) or evidence.words(method, key))
    return facts + _joined([*three_efforts(evidence), *three_in_place(evidence)])


WATER = (
    ("falling_head", ("kfs_mm_h", "k20_mm_h")),
    ("well_permeameter", ("kfs_mm_h", "design_mm_h")),
    ("double_ring", ("rate_mm_h",)),
    ("retention", ("theta_10_percent", "air_10_percent", "available_percent")),
    ("lime_demand", ("demand_hydrated_percent", "demand_quicklime_percent")),
)


def _water(evidence: Evidence) -> list[Fact]:
    """What lets water through and holds it, and the lime that a clay asks for."""
    return [f for method, keys in WATER for key in keys for f in _fact(f"{method}_{key}", evidence.known(method, key))]


def _strength(evidence: Evidence) -> list[Fact]:
    """Undrained strengths and friction angles with their cohesion, by each test."""
    facts: list[Fact] = []
    for word, known in undrained(evidence):
        facts += [f.model_copy(update={"name": f"{f.name}, {word}"}) for f in _fact("su", known)]
    for angle, cohesion in angles(evidence):
        facts += _fact("phi", angle) + _fact("c", cohesion)
    return facts


def _joined(found: list[Joined]) -> list[Fact]:
    return [Fact(key=j.key, symbol="", name=j.name, reported=j.reported, unit=j.unit, code=j.codes) for j in found]


def _grading(grading: Merged) -> list[Fact]:
    facts = []
    for finer in (10, 30, 50, 60, 85):
        size = grading.size(finer)
        if size is not None:
            reported = rounded(size, significant_step(size))
            facts.append(
                Fact(
                    key=f"d{finer}_mm",
                    symbol=f"D_{finer}",
                    name=f"{finer} % finer than",
                    reported=reported,
                    unit="mm",
                    code="",
                )
            )
    for symbol, name, value in (("C_u", "uniformity", grading.uniformity), ("C_c", "curvature", grading.curvature)):
        if value is not None:
            reported = rounded(value, significant_step(value))
            facts.append(Fact(key=symbol, symbol=symbol, name=name, reported=reported, unit="", code=""))
    return facts


def _shares(grading: Merged, system: System) -> tuple[Fact, ...]:
    shares, code = grading.shares(system), " + ".join(grading.codes)
    fine = ("silt", "clay") if shares.get("silt") is not None else ("fines",)
    names = ("cobbles", "gravel", "sand", *fine)
    said = {"gravel": "fragments"} if system == "international" else {}
    found = [(n, shares.get(n)) for n in names]
    return tuple(
        Fact(key=n, symbol=n[:2].capitalize(), name=said.get(n, n), reported=rounded(v, 1), unit="%", code=code)
        for n, v in found
        if v is not None and not (n == "cobbles" and v == 0)
    )


def _as_text(found: float) -> str:
    return f"{plain(found, 3)} mm"


def _shares_for(grading: Merged | None, system: System, error: float) -> dict[str, Figure]:
    """Gravel, sand and fines of the part that the rule book classes: without what does not pass its cobble sieve."""
    if grading is None:
        return {}
    values = grading.part(EDGES[system]["cobbles"]).shares(system)
    return {n: Figure(v, error) for n in ("gravel", "sand", "fines") if (v := values[n]) is not None}


def _unified(evidence: Evidence, grading: Merged | None, error: float, loose: bool) -> Classified:
    figures = _shares_for(grading, "astm", error) | limit_figures(evidence, as_reported=True)
    notes = []
    cobbles = evidence.said("cobbles_seen") == "yes"
    if grading:
        part = grading.part(EDGES["astm"]["cobbles"])
        if part.uniformity is not None:
            figures["Cu"] = Figure(part.uniformity, 0.03 * part.uniformity, "")
        if part.curvature is not None:
            figures["Cc"] = Figure(part.curvature, 0.05 * part.curvature, "")
        ten = part.ten_percent
        if ten and ten[1]:
            notes.append(f"# D10 {_as_text(ten[0])}: the curve is carried on beyond its finest sieve.")
        over = grading.shares("astm").get("cobbles") or 0.0
        if over > 0:
            notes.append(f"Cobbles and boulders are {rounded(over, 1)} % of the whole; classed is what passes 75 mm.")
        cobbles = cobbles or over > 0
    ratio = evidence.oven_dried_ratio()
    if ratio:
        figures["oven-dried LL ratio"] = Figure(ratio[0], 0.02, "")
    found = uscs(figures, Seen(loose, evidence.said("organic_by_eye") == "peat", cobbles))
    if evidence.said("organic_by_eye") == "some" and not ratio:
        notes.append("Organic by eye: a liquid limit of the oven-dried soil decides whether it is an organic soil.")
    return found.model_copy(update={"notes": (*found.notes, *notes)})


def classes_of(evidence: Evidence, grading: Merged | None) -> tuple[Classified, ...]:
    """The soil's class in each system, as far as its figures go."""
    loose = nonplastic(evidence)
    coarse = evidence.known("sieve", "fines_percent")
    error = max(coarse.uncertainty if coarse and coarse.uncertainty else 0.5, 0.5)
    passing = limit_figures(evidence, as_reported=True)
    if grading:
        part = grading.part(EDGES["aashto"]["cobbles"])
        for size in (2.0, 0.425, 0.075):
            value = part.finer(size)
            if value is not None:
                passing[f"passing {size:g} mm"] = Figure(value, error)
    peat = evidence.said("organic_by_eye") == "peat"
    whole = limit_figures(evidence, as_reported=False)
    clay = grading.part(EDGES["iso"]["cobbles"]).finer(0.002) if grading else None
    figures = _shares_for(grading, "iso", error) | whole | ({"clay": Figure(clay)} if clay is not None else {})
    return (
        _unified(evidence, grading, error, loose),
        aashto(passing, loose, peat=peat),
        _texture(evidence, grading),
        iso(figures, loose),
        *_national(grading, error, figures, loose),
    )


def _national(grading: Merged | None, error: float, figures: Figures, loose: bool) -> tuple[Classified, ...]:
    """By BS 5930, DIN 18196 and IS 1498, once there is a grading: their cobbles are out as in the others."""
    if grading is None:
        return ()

    def graded(system: System) -> dict[str, Figure]:
        part = grading.part(EDGES[system]["cobbles"])
        found = {"Cu": (part.uniformity, 0.03), "Cc": (part.curvature, 0.05)}
        return {name: Figure(v, share * v, "") for name, (v, share) in found.items() if v is not None}

    metric = dict(figures) | graded("iso")
    limit = {k: v for k, v in figures.items() if k in ("liquid limit", "plasticity index")}
    return (
        bs5930(metric, loose),
        din18196(metric, loose),
        is1498(_shares_for(grading, "astm", error) | graded("astm") | limit, loose),
    )


def _earth(grading: Merged | None) -> Figures:
    if grading is None:
        return {}
    top, silt, clay = grading.finer(2.0), grading.finer(0.05), grading.finer(0.002)
    if top is None and grading.points[0].size_mm < 2.0:
        top = 100.0  # a hydrometer alone: what came through 2 mm
    if not top or silt is None or clay is None:
        return {}
    sand, silts, clays = fine_earth_percent(top, silt, clay)
    return {"sand": Figure(sand, 1.0), "silt": Figure(silts, 1.0), "clay": Figure(clays, 1.0)}


def _texture(evidence: Evidence, grading: Merged | None) -> Classified:
    """The texture with its fragments by volume: as the pit gave them, else from their mass and the fine earth's
    density."""
    top = grading.finer(2.0) if grading else None
    pit = evidence.known("pit_density", "coarse_volume_percent")
    if pit is None and (top is None or top >= 100):
        return usda(_earth(grading))
    kind = 0
    if grading and top is not None:
        # the kind that most of the fragments are
        over = [100 - (grading.finer(size) or 100.0) for size, _, _ in KINDS]
        shares = [100 - top - over[0], over[0] - over[1], over[1]]
        kind = shares.index(max(shares))
    if pit is not None:
        volume, note = pit.value, f"Fragments {pit.reported} % by volume ({pit.code})."
    else:
        fine = evidence.known("pit_density", "fine_earth_density_mg_m3") or evidence.known(
            "ring_density", "dry_density_mg_m3"
        )
        density = fine.value if fine else USUAL_FINE_EARTH_MG_M3
        said = f"{fine.reported} Mg/m³ ({fine.code})" if fine else f"{USUAL_FINE_EARTH_MG_M3:g} Mg/m³, assumed (#)"
        mass = 100 - (top or 100.0)
        volume = fragments_volume_percent(mass, density)
        note = f"Fragments {rounded(mass, 1)} % by mass are {rounded(volume, 1)} % by volume; fine earth {said}."
    found = usda(_earth(grading), volume, kind)
    return found.model_copy(update={"notes": (*found.notes, note)})


def _texture_word(classes: Sequence[Classified]) -> str:
    """The texture's class in the USDA system; empty while it is not known."""
    return next((c.symbol for c in classes if c.system == "USDA"), "")


def card(told: Sequence[Told], bands: Bands | None = None) -> Card:
    """The card of a sample from its runs, newest first; `bands` of the cross-readings where the laboratory has set
    its own."""
    evidence = Evidence(told, bands)
    grading = merged(evidence)
    series: dict[str, Table] = {"sieve": (), "hydrometer": (), "curve": (), "envelope": ()}
    if grading:
        series["curve"] = tuple(
            {"size_mm": p.size_mm, "finer_percent": p.finer_percent, "source": p.source} for p in grading.points
        )
        for source in ("sieve", "hydrometer"):
            found = evidence.curve(source)
            points = found[0] if found else []
            series[source] = tuple({"size_mm": p.size_mm, "finer_percent": p.finer_percent} for p in points)
        sieved = evidence.curve("sieve")
        series["envelope"] = sieved[1].outcome.series.get("envelope", ()) if sieved else ()
    both = limits(evidence)
    point: Table = ()
    if both is not None and both.index_percent is not None and not nonplastic(evidence):
        label = f"LL {rounded(both.liquid_percent, 1)}, PI {both.reported}"
        point = ({"ll": both.liquid_percent, "pi": both.index_percent, "state": "measured", "label": label},)
    series |= limits_series() | {"point": point, "determinations": ()}
    systems: tuple[System, ...] = ("astm", "aashto", "iso", "international")
    classes = classes_of(evidence, grading)
    return Card(
        consistency=tuple(_consistency(evidence, grading.finer(FINE_PART_MM) if grading else None)),
        grading=tuple(_grading(grading)) if grading else (),
        shares={system: _shares(grading, system) for system in systems} if grading else {},
        density=tuple(_density(evidence)),
        bearing=tuple(_bearing(evidence)),
        strength=tuple(_strength(evidence)),
        water=tuple(_water(evidence)),
        classes=classes,
        readings=cross_readings(evidence, classes[0].symbol, _texture_word(classes)),
        series=series,
    )
