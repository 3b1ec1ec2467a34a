"""The order of work for a plastic limit."""

from datetime import datetime

from vadum.soil.contract.flow import Flow
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Outcome
from vadum.soil.contract.task import BALANCE, Asks, Rows, Task, ask
from vadum.soil.contract.waits import Oven
from vadum.soil.methods.plastic_limit.facts import Facts
from vadum.soil.methods.plastic_limit.school import PlasticLimitSchool
from vadum.soil.shared.specimen import SPECIMEN
from vadum.soil.shared.tin_tasks import tins_into_oven


def _kept(f: Facts) -> list[float | None]:
    """Dry masses of the tins that hold threads and are not left out."""
    return [d.mass_dry_g for d in f.record.determinations if d.mass_wet_g is not None and not d.excluded_because]


def _wet(f: Facts) -> list[tuple[str, str]]:
    return [
        (f"determinations[{i}].mass_dry_g", d.tin or f"determination {i + 1}")
        for i, d in enumerate(f.record.determinations)
        if not d.excluded_because and d.mass_wet_g is not None and d.mass_dry_g is None
    ]


def _nonplastic(f: Facts, s: PlasticLimitSchool, outcome: Outcome, now: datetime) -> Advice | None:
    if not (f.nonplastic and f.said_nonplastic):
        return None
    detail = f"{f.nonplastic.capitalize()}. Sign the sheet with NP."
    return Advice(headline="Nonplastic.", detail=detail, finished=True)


def _another(f: Facts, s: PlasticLimitSchool, outcome: Outcome, now: datetime) -> Advice | None:
    """Where the tins disagree another is rolled: which of them is wrong, only a third can tell."""
    apart = next((v for v in outcome.verdicts if v.rule == "determinations agree" and v.level == "redo"), None)
    if apart is None or f.said_nonplastic:
        return None
    at = f"determinations[{len(f.record.determinations)}]."
    return ask("The tins disagree: roll another.", apart.found, (f"{at}tin", f"{at}mass_wet_g"), 900, "another")


def _dry(f: Facts, s: PlasticLimitSchool) -> str:
    kept = _kept(f)
    return f"{sum(m is not None for m in kept)} of {len(kept)}" if kept else ""


FLOW: Flow = (
    Asks(key="nonplastic", title="Nonplastic", does="", in_column=False, think=_nonplastic),
    Rows(
        key="threads",
        title="Roll the threads",
        does="A ball of about 10 g from the dish once it is plastic; threads on glass, beside a rod of their size.",
        fields=(
            "determinations[].tin",
            "determinations[].mass_tin_g",
            "determinations[].mass_tin_register_g",
            "determinations[].mass_wet_g",
            "determinations[].excluded_because",
            "rolled_by",
            "cannot_be_rolled",
            *BALANCE,
        ),
        rows="determinations",
        reads=("tin", "mass_tin_g", "mass_wet_g"),
        holds_row="mass_wet_g",
        noun="tin",
        least=lambda f, s: s.least_determinations,
        is_done=lambda f, s: (
            f.record.cannot_be_rolled == "yes"
            or (
                len(_kept(f)) >= s.least_determinations
                and all(d.mass_wet_g is not None or d.excluded_because for d in f.record.determinations)
            )
        ),
        gives="plastic limit",
        asks=lambda f, s: (
            f"Roll to {plain(s.thread_mm)} mm, beside a rod of {plain(s.thread_mm)} mm, until it crumbles there."
        ),
        how=lambda f, s: (
            f"Gather the crumbs, {plain(s.least_moist_g)} g or more, lid on at once. Crumbles thicker: "
            "too dry, take fresh; rolls thinner: fold and roll again."
        ),
        amount=lambda f, s: (f"{len(_kept(f))} of {s.least_determinations}", "tins in"),
        cautions=("Glass plate: no chipped edges.",),
        hands_s=900,
        skill="experienced",
        note=lambda f, s: f"{len(_kept(f))} tins" if _kept(f) else "",
    ),
    tins_into_oven(tins=lambda f: _wet(f) if f.record.in_oven_at is None else []),
    Oven(
        key="dry",
        title="Weigh the dry tins",
        does="Lids on, cool 5 to 10 minutes, weigh.",
        fields=("determinations[].mass_dry_g",),
        tins=_wet,
        is_done=lambda f, s: bool(_kept(f)) and all(m is not None for m in _kept(f)),
        gives="plastic limit",
        cautions=("Tins out with tongs.",),
        hands_s=240,
        note=_dry,
    ),
    Asks(key="another", title="Another tin", does="", in_column=False, think=_another),
    Task(
        key="indices",
        title="Indices",
        does="Liquid limit of the same soil; natural water content; part finer than 2 µm.",
        fields=(
            "liquid_limit_percent",
            "liquid_limit_uncertainty_percent",
            "liquid_limit_unobtainable",
            "natural_water_content_percent",
            "finer_than_425um_percent",
            "coarse_water_content_percent",
            "finer_than_2um_percent",
            "remarks",
        ),
        needs=("liquid_limit_percent",),
        also=("natural_water_content_percent", "finer_than_425um_percent", "finer_than_2um_percent"),
        optional=True,
        gives="plasticity index",
        asks="The index waits for the liquid limit.",
        how="It comes from the liquid limit of this sample, or type it. The plastic limit can be signed alone.",
        hands_s=120,
        is_done=lambda f, s: f.record.liquid_limit_percent is not None or f.record.liquid_limit_unobtainable == "yes",
        note=lambda f, s: "" if f.liquid_percent is None else f"LL {plain(f.liquid_percent, 3)} %",
    ),
    Task(
        key="liquidity",
        title="Natural water",
        does="Natural water content.",
        in_column=False,
        optional=True,
        needs=("natural_water_content_percent",),
        gives="liquidity index",
        asks="Done. The sheet can be signed.",
        how="Natural water content and clay part, if known, give liquidity and activity.",
    ),
    Task(
        key="activity",
        title="Clay part",
        does="Part finer than 2 µm.",
        in_column=False,
        optional=True,
        needs=("finer_than_2um_percent",),
        gives="activity",
        asks="Done. The sheet can be signed.",
        how="The clay part, if known, gives the activity.",
    ),
    SPECIMEN,
)
