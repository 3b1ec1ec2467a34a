"""The kit: what is in date, what lapses, an item's history, its inspection form."""

from typing import Any, get_args

from fastapi import APIRouter, Request
from pydantic.fields import FieldInfo

from vadum.bench.lying import lying
from vadum.instruments.profile import profiles
from vadum.soil.contract.fields import unit_of
from vadum.soil.shared.apparatus import CALIBRATIONS
from vadum.soil.shared.device_check import CupInspection
from vadum.soil.shared.proving_ring import factors_n_div, table_of
from vadum.tape import kit, kit_papers
from vadum.tape.labels import kit_label
from vadum.web.context import Me, Missing, Reading, TheShop, page
from vadum.web.views.tares import tare_chart

router = APIRouter(include_in_schema=False)


def options_of(field: FieldInfo) -> tuple[str, ...]:
    """The words a field may be, where it is a choice."""
    options = get_args(field.annotation)
    return tuple(options) if options and all(isinstance(o, str) for o in options) else ()


def ring_rows(text: str) -> list[tuple[float, float, float | None]]:
    """A ring's table as it is shown: divisions, kN, and N per division from the point before."""
    table = table_of(text)
    return [(div, kn, k) for (div, kn), k in zip(table, (None, *factors_n_div(table)), strict=True)]


ASKS = ("failed", "lapsed", "never looked at", "never weighed", "lapses soon")  # the gravest first
SIGNS = {
    "in date": "✓",
    "lapses soon": "◗",
    "lapsed": "▲",
    "failed": "■",
    "never looked at": "▲",
    "never weighed": "▲",
    "retired": "·",
}


@router.get("/kit")
def kit_page(request: Request, its: TheShop, me: Me, session: Reading) -> Any:
    """What asks for somebody first; then everything, by what is done with it."""
    now = its.now()
    states = kit.states(session, now.date())
    by_kind = {kind: [s for s in states if s.item.kind == kind] for kind in kit.KINDS}
    asks = sorted((s for s in states if s.word in ASKS), key=lambda s: (ASKS.index(s.word), s.due_on or now.date()))
    listed = [(title, [k for k in kinds if k != "tin" and by_kind[k]]) for title, kinds in kit.GROUPS.items()]
    return page(
        request,
        "kit.html",
        me,
        place="kit",
        asks=asks,
        groups=[(title, [(k, by_kind[k]) for k in some]) for title, some in listed if some],
        tins=by_kind["tin"],
        lies={one.code: one for one in lying(session, its.foreman, now) if one.kind == "tin"},
        retired=kit.states(session, now.date(), retired=True),
        kinds=kit.KINDS,
        one_of=kit.one_of,
        kind_signs=SIGNS,
    )


@router.get("/kit/{kind}/{code:path}")
def item_page(request: Request, its: TheShop, me: Me, session: Reading, kind: str, code: str) -> Any:
    """One item."""
    item = kit.find(session, kind, code)
    if item is None:
        raise Missing(f"there is no {kind[:20]} {code[:30]!r}")
    state = kit.state(session, item, its.now().date())
    return page(
        request,
        "item.html",
        me,
        place="kit",
        state=state,
        kinds=kit.KINDS,
        chart=tare_chart(state) if kind == "tin" else None,
        inspection=CupInspection.model_fields,
        calibration=CALIBRATIONS[kind].model_fields if kind in CALIBRATIONS else None,
        unit_of=unit_of,
        ring_rows=ring_rows,
        options_of=options_of,
        profiles=sorted(profiles()) if kind == "instrument" else (),
        one_of=kit.one_of,
        kind_signs=SIGNS,
        checks_of=kit_papers.checks_of,
        lies=[one for one in lying(session, its.foreman, its.now()) if (one.kind, one.code) == (kind, item.code)],
        label=kit_label(kind, item.code),
        today=its.now().date(),
    )
