"""The form of a desk: the readings of the piece of work in hand, those beside it, and those that follow it.

A piece of work is a step, or one row of a step that has rows. The form stays with it until the person moves on, so that
no reading beside the last required one vanishes under the hand that was going to fill it.
"""

from datetime import datetime
from typing import NamedTuple

from vadum.soil.contract import flow as flows
from vadum.soil.contract import paths, questions
from vadum.soil.contract.fields import RecordPart
from vadum.soil.contract.outcome import Advice
from vadum.soil.contract.plain_json import as_json
from vadum.soil.contract.questions import Expected
from vadum.soil.contract.task import Task, says
from vadum.tape import kit
from vadum.tape.runs import Read
from vadum.web.views import desk
from vadum.web.views.desk import FieldView, StepView

MOST_BESIDE = 24  # a step with more optional readings has them in the list of steps
MOST = 1e300  # JSON has no infinity
LATER = ("excluded_because", "missed", "noted")  # decided on a reading that stands, where it is shown


class Following(NamedTuple):
    """A piece of work that comes after the one in hand: what it is, how it is done, its fields."""

    title: str
    detail: str
    fields: list[FieldView]


class WorkForm(NamedTuple):
    """What the desk asks for now.

    `fields` are asked or were just filled, in their order; `beside` may be filled too. `stays` is the step that the
    form stays with although the work could go on: its optional readings are still open.
    """

    fields: list[FieldView]
    beside: list[FieldView]
    following: list[Following]
    stays: Task | None = None

    @property
    def open(self) -> list[FieldView]:
        """The fields of the work in hand that hold nothing yet."""
        return [f for f in self.fields if not f.value]


def _row_of(path: str) -> str:
    """The row that a reading belongs to; empty for a reading of the record itself."""
    return paths.parse(path).parent


def _entered_by_itself(record: type[RecordPart], path: str) -> bool:
    """Whether a reading comes with another one: a time with its reading, what a piece of kit brings with its number."""
    field = paths.field_of(record, path)
    name = paths.field_name(path)
    extra = field.json_schema_extra if field is not None else None
    follows = isinstance(extra, dict) and "moment_of" in extra
    return follows or name in LATER or kit.is_brought(name)


def _of_the_step(read: Read, step: Task, row: str) -> tuple[str, ...]:
    """Every reading of a step in one row, in the order in which the step declares them."""
    found = []
    unused = read.method.unused(read.school)
    for pattern in step.fields:
        if pattern in unused:
            continue
        if paths.parse(pattern).parent == (paths.pattern_of(row) if row else ""):
            found.append(paths.of(row, paths.field_name(pattern)))
    return tuple(found)


def _beside(read: Read, step: Task, row: str, asked: tuple[str, ...]) -> tuple[str, ...]:
    """The optional readings of a step's row that are open: not asked, and not brought by another."""
    stands = read.folded.came_from
    return tuple(
        p
        for p in _of_the_step(read, step, row)
        if p not in asked and p not in stands and not _entered_by_itself(read.method.Record, p)
    )


def _filled(read: Read, step: Task, row: str) -> tuple[str, ...]:
    """The readings of a step's row that were entered by hand."""
    stands = read.folded.came_from
    return tuple(
        p
        for p in _of_the_step(read, step, row)
        if p in stands and not stands[p].source.startswith("kit") and not _entered_by_itself(read.method.Record, p)
    )


def _ordered(read: Read, step: Task, asked: tuple[str, ...]) -> tuple[str, ...]:
    """What is asked, with what stands already of the same piece of work in its place among it."""
    row = _row_of(asked[0])
    place = {p: i for i, p in enumerate(_of_the_step(read, step, row))}
    found = [p for p in _filled(read, step, row) if p not in asked]
    out: list[str] = []
    for path in asked:
        while found and place.get(path) is not None and place[found[0]] < place[path]:
            out.append(found.pop(0))
        out.append(path)
    return (*out, *found)


def _staying(read: Read, at: str, wants: tuple[str, ...]) -> Task | None:
    """The step of the reading just entered, where the work goes on elsewhere while it has optional readings open."""
    if not at or paths.field_of(read.method.Record, at) is None:
        return None
    here = flows.step_of(read.method.flow, at, read.school)
    there = flows.step_of(read.method.flow, wants[0], read.school) if wants else None
    if here is None or here is there or any(paths.pattern_of(w) in here.fields for w in wants):
        return None
    return here if _beside(read, here, _row_of(at), wants) else None


def work_form(
    read: Read, advice: Advice, now: datetime, *, opened: StepView | None = None, at: str = "", field: str = ""
) -> WorkForm:
    """The form for what the advice wants; of an opened step all its fields.

    `at` is the reading that the page entered last, `field` one that was asked for by name.
    """
    form = _form(read, advice.wants, now, opened=opened, at=at, field=field)
    told = questions.expected_by_advice(advice)
    return form._replace(
        fields=[v._replace(asks=_asks(read, v, told[v.path])) if v.path in told else v for v in form.fields]
    )


def _form(
    read: Read, wants: tuple[str, ...], now: datetime, *, opened: StepView | None, at: str, field: str
) -> WorkForm:
    if not read.run.in_hand:
        return WorkForm([], [], [])
    if opened is not None:
        shown = desk.fields(read, desk.step_paths(read, opened.step), now)
        return WorkForm(_marked(read, shown), [], [])
    stays = _staying(read, at, wants)
    if stays is not None:
        row = _row_of(at)
        asked = set(stays.beside(read.facts, read.school))
        open_ = _beside(read, stays, row, wants)
        standing = set(_filled(read, stays, row)) | asked.intersection(open_)
        here = desk.fields(read, tuple(p for p in _of_the_step(read, stays, row) if p in standing), now)
        others = tuple(p for p in open_ if p not in asked)
        return WorkForm(here, _views(read, others, now), [], stays)
    if field and field not in wants and paths.field_of(read.method.Record, field) is not None:
        wants = (field, *wants)
    if not wants:
        return WorkForm([], [], [])
    step = flows.step_of(read.method.flow, wants[0], read.school)
    if step is None:
        return WorkForm(_marked(read, desk.fields(read, wants, now)), [], [])
    shown = _marked(read, desk.fields(read, _ordered(read, step, wants), now))
    following = _following(read, wants, now, {v.path for v in shown})
    # What the next step asks for anyway is no extra of this one: a reading has one field on a desk.
    asked_later = {v.path for group in following for v in group.fields}
    beside = tuple(p for p in _beside(read, step, _row_of(wants[0]), wants) if p not in asked_later)
    return WorkForm(shown, _views(read, beside, now), following)


def prepares(read: Read, form: WorkForm) -> bool:
    """Whether the desk still asks for what comes before readings that a load calls: they wait for it."""
    asked = next((flows.step_of(read.method.flow, f.path, read.school) for f in form.open), None)
    return form.stays is not None or type(asked) is Task


def without_called(read: Read, form: WorkForm) -> WorkForm:
    """The form without the readings that a travel or a load calls: they have a panel of their own."""
    keys = tuple(f"{c.key}[" for c in read.method.called(read.facts, read.school) if c.by in ("travel", "load"))
    if not keys:
        return form
    return form._replace(
        fields=[f for f in form.fields if not f.path.startswith(keys)],
        beside=[f for f in form.beside if not f.path.startswith(keys)],
        following=[],
    )


def _views(read: Read, beside: tuple[str, ...], now: datetime) -> list[FieldView]:
    views = [v._replace(optional=True, asks=_asks(read, v)) for v in desk.fields(read, beside[:MOST_BESIDE], now)]
    return _closing(read, views)


def _closing(read: Read, views: list[FieldView]) -> list[FieldView]:
    """The fields, each with those that it makes needless; one whose figure was given another way is optional."""
    found = []
    for view in views:
        ways = read.method.others_of(view.path)
        given = any(all(other in read.folded.came_from for other in way) for way in ways)
        closes = tuple(other for way in ways for other in way)
        shown = view._replace(closes=closes)
        found.append(shown._replace(optional=True, required=False) if given and not view.value else shown)
    return found


def _asks(read: Read, view: FieldView, *told: Expected) -> str:
    """What speaks against a figure at that field, for the page to compare it with."""
    if view.value or view.kind not in ("number", "count"):
        return ""
    found = (*told, *questions.expected(read.method, read.facts, read.school, read.folded.record, view.path))
    return as_json([{"low": max(e.low, -MOST), "high": min(e.high, MOST), "words": e.words} for e in found])


def _marked(read: Read, views: list[FieldView]) -> list[FieldView]:
    """The fields, those marked that the work cannot do without, with what speaks against a figure."""
    needed = flows.required(read.method.flow, read.facts, read.school, tuple(v.path for v in views))
    return _closing(read, [v._replace(required=v.path in needed, asks=_asks(read, v)) for v in views])


def _following(read: Read, wants: tuple[str, ...], now: datetime, shown: set[str]) -> list[Following]:
    found = []
    placed = set(shown)
    for group in flows.ahead(read.method.flow, read.facts, read.school, wants):
        views = [v for v in desk.fields(read, group.paths, now) if not v.value and v.path not in placed]
        placed.update(v.path for v in views)
        if views:
            task = group.task
            headline = says(task.asks, read.facts, read.school) or f"{task.title}."
            how = says(task.how, read.facts, read.school) or task.does
            found.append(Following(headline, how, _marked(read, views)))
    return found
