"""The bench: what do my hands do next?"""

from datetime import datetime
from typing import Any, Literal

from fastapi import APIRouter, Request

from vadum.bench.foreman import Bench
from vadum.bench.river import LANE, LEFT, WIDTH, ZOOMS
from vadum.tape import kit, people, runs, schedule
from vadum.tape.signatures import standing
from vadum.tape.tables import Run
from vadum.web.context import Me, Reading, Shop, TheShop, page, part
from vadum.web.views.bench import now_line, rows
from vadum.web.views.first_steps import FirstStep, first_steps, is_new

router = APIRouter(include_in_schema=False)


def _values(its: Shop, session: Any, zoom: str) -> dict[str, Any]:
    now = its.now()
    bench: Bench = its.foreman.bench(session, now, zoom)
    lapsing = [
        s for s in kit.states(session, now.date(), that_lapse=True) if s.word in ("lapses soon", "lapsed", "failed")
    ]
    unchecked = [(run, runs.place_of(session, run)) for run in _to_check(its, session, now)]
    return {
        "bench": bench,
        "line": now_line(bench, now),
        "after": rows(bench.after, now),
        "waiting": bench.waiting,
        "out": sum(m.due.at is not None and m.due.at <= now for m in bench.waiting),
        "steps": _first_day(session, bench),
        "river": bench.river,
        "left": LEFT,
        "width": WIDTH,
        "lane_height": LANE,
        "zooms": tuple(ZOOMS),
        "zoom": zoom,
        "now": now,
        "unchecked": unchecked,
        "lapsing": lapsing[:3],
        "owed": schedule.owed(session, most=4),
    }


MOST_TO_CHECK, PAGES_LOOKED_AT = 4, 10


def _to_check(its: Shop, session: Any, now: datetime) -> list[Run]:
    """The runs last signed here; one that came signed from another laboratory waits for nobody here."""
    found: list[Run] = []
    for number in range(1, PAGES_LOOKED_AT + 1):
        signed = runs.listed(session, "signed", page=number)
        sound, _ = its.shelf.judged(session, signed, now)
        found += [one.read.run for one in sound if not standing(one.read).laboratory]
        if len(found) >= MOST_TO_CHECK or not signed:
            break
    return found[:MOST_TO_CHECK]


def _first_day(session: Any, bench: Bench) -> list[FirstStep]:
    """What a laboratory still has to make before its first reading; nothing once a run was begun."""
    if bench.in_hand:
        return []
    steps = first_steps(session)
    return steps if is_new(steps) else []


@router.get("/bench")
def bench_page(
    request: Request, its: TheShop, me: Me, session: Reading, zoom: Literal["hour", "day", "six weeks"] = "hour"
) -> Any:
    """The start page."""
    told = people.reset_told(session, me, its.now())
    return page(request, "bench.html", me, place="bench", told=told, **_values(its, session, zoom))


@router.get("/bench/live")
def bench_live(
    request: Request, its: TheShop, me: Me, session: Reading, zoom: Literal["hour", "day", "six weeks"] = "hour"
) -> Any:
    """The start page's moving parts."""
    values = _values(its, session, zoom)
    return {"fragments": {name: part(request, f"bench/_{name}.html", **values) for name in ("now", "river", "foot")}}
