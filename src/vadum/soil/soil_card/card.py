"""The soil card: all that is known of one sample, computed from its runs."""

from collections.abc import Sequence

from vadum.soil.classify.aashto import aashto
from vadum.soil.classify.iso import iso
from vadum.soil.classify.path import Classified, Figure, Figures
from vadum.soil.classify.uscs import Seen, uscs
from vadum.soil.classify.usda import fine_earth_percent, usda
from vadum.soil.contract.numerics import rounded, significant_step
from vadum.soil.contract.outcome import Frozen, Table, Verdict
from vadum.soil.shared.grading import System
from vadum.soil.shared.plasticity import limits_series
from vadum.soil.soil_card.cross_readings import activity, cross_readings, liquidity, natural_water, relative_compaction
from vadum.soil.soil_card.evidence import Evidence, Known, Told
from vadum.soil.soil_card.merged import Merged, merged


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


def _consistency(evidence: Evidence) -> list[Fact]:
    facts = _fact("water_content", natural_water(evidence))
    facts += _fact("liquid_limit", evidence.known("liquid_limit", "liquid_limit_percent"))
    for key in ("plastic_limit_percent", "plasticity_index_percent"):
        facts += _fact(key, evidence.known("plastic_limit", key))
    if evidence.nonplastic():
        facts.append(Fact(key="np", symbol="PI", name="plasticity index", reported="NP", unit="", code=""))
    wet = liquidity(evidence)
    if wet:
        name = f"liquidity index: {wet[1]}"
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
    for key in ("maximum_dry_density_mg_m3", "optimum_water_percent", "corrected_dry_density_mg_m3"):
        facts += _fact(key, evidence.known("compaction", key))
    for dry, most, share in relative_compaction(evidence):
        code = f"{dry.code} / {most.code}"
        reported = rounded(share, 0.1)
        facts.append(Fact(key="rc", symbol="RC", name="relative compaction", reported=reported, unit="%", code=code))
    return facts


def _bearing(evidence: Evidence) -> list[Fact]:
    """Bearing ratio of mould and ground with what stood beside them; a bound that was proved stands in its words."""
    facts = []
    for method in ("cbr", "field_cbr"):
        for key in ("bearing_ratio_percent", "swell_percent", "water_content_percent"):
            facts += _fact(f"{method}_{key}", evidence.known(method, key) or evidence.words(method, key))
    return facts


def _grading(grading: Merged) -> list[Fact]:
    facts = []
    for finer in (10, 30, 50, 60, 85):
        size = grading.size(finer)
        if size is not None:
            reported = rounded(size, significant_step(size))
            facts.append(
                Fact(
                    key=f"d{finer}",
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
    found = [(n, shares.get(n)) for n in names]
    return tuple(
        Fact(key=n, symbol=n[:2].capitalize(), name=n, reported=rounded(v, 1), unit="%", code=code)
        for n, v in found
        if v is not None and not (n == "cobbles" and v == 0)
    )


def _figures(evidence: Evidence) -> dict[str, Figure]:
    """Liquid limit and plasticity index for the plasticity chart, as the newest runs have them."""
    figures: dict[str, Figure] = {}
    limit = evidence.known("liquid_limit", "liquid_limit_percent")
    plastic = evidence.known("plastic_limit", "plastic_limit_percent")
    if limit:
        figures["liquid limit"] = limit.figure()
    if limit and plastic and limit.value > plastic.value:
        errors = (limit.uncertainty or 0.5, plastic.uncertainty or 0.5)
        figures["plasticity index"] = Figure(limit.value - plastic.value, (errors[0] ** 2 + errors[1] ** 2) ** 0.5)
    return figures


def classes_of(evidence: Evidence, grading: Merged | None) -> tuple[Classified, ...]:
    """The soil's class in each system, as far as its figures go."""
    nonplastic = evidence.nonplastic()
    plastic = _figures(evidence)
    coarse = evidence.known("sieve", "fines_percent")
    error = coarse.uncertainty if coarse and coarse.uncertainty else 0.5
    found: list[Classified] = []

    def shares(system: System) -> dict[str, Figure]:
        if grading is None:
            return {}
        values = grading.shares(system)
        names = ("gravel", "sand", "fines")
        return {n: Figure(v, max(error, 0.5)) for n in names if (v := values[n]) is not None}

    figures = shares("astm") | plastic
    if grading and grading.uniformity is not None:
        figures["Cu"] = Figure(grading.uniformity, 0.03 * grading.uniformity, "")
    if grading and grading.curvature is not None:
        figures["Cc"] = Figure(grading.curvature, 0.05 * grading.curvature, "")
    cobbles = grading is not None and (grading.shares("astm").get("cobbles") or 0) > 0
    found.append(uscs(figures, Seen(nonplastic=nonplastic, cobbles=cobbles)))
    passing: dict[str, Figure] = dict(plastic)
    if grading:
        for size in (2.0, 0.425, 0.075):
            value = grading.finer(size)
            if value is not None:
                passing[f"passing {size:g} mm"] = Figure(value, max(error, 0.5))
    found.append(aashto(passing, nonplastic))
    found.append(usda(_earth(grading)))
    clay = grading.finer(0.002) if grading else None
    figures = shares("iso") | plastic | ({"clay": Figure(clay)} if clay is not None else {})
    found.append(iso(figures, nonplastic))
    return tuple(found)


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


def card(told: Sequence[Told]) -> Card:
    """The card of a sample from its runs, newest first."""
    evidence = Evidence(told)
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
    figures = _figures(evidence)
    point: Table = ()
    if "plasticity index" in figures:
        ll, pi = figures["liquid limit"].value, figures["plasticity index"].value
        said = evidence.known("plastic_limit", "plasticity_index_percent")
        label = f"LL {rounded(ll, 1)}, PI {said.reported if said else rounded(pi, 1)}"
        point = ({"ll": ll, "pi": pi, "state": "measured", "label": label},)
    series |= limits_series() | {"point": point, "determinations": ()}
    systems: tuple[System, ...] = ("astm", "iso")
    classes = classes_of(evidence, grading)
    return Card(
        consistency=tuple(_consistency(evidence)),
        grading=tuple(_grading(grading)) if grading else (),
        shares={system: _shares(grading, system) for system in systems} if grading else {},
        density=tuple(_density(evidence)),
        bearing=tuple(_bearing(evidence)),
        classes=classes,
        readings=cross_readings(evidence, classes[0].symbol),
        series=series,
    )
