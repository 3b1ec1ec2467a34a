"""The tasks around tins that several flows have: a tin filled and weighed, tins into the oven, a tin dried."""

from datetime import datetime
from typing import Any

from vadum.soil.contract.task import Says, Task
from vadum.soil.contract.waits import Oven


def fill_tin(title: str, does: str, asks: str, how: Says, **more: Any) -> Task:
    """Soil into a tin, weighed wet. `more` is what this method's tin has of its own."""
    own: dict[str, Any] = {"label": "tin", "hands_s": 120, "needs": ("mass_tin_g", "mass_wet_g")} | more
    return Task(
        key="water",
        title=title,
        does=does,
        asks=asks,
        how=how,
        also=("tin",),
        holds=("balance",),
        note=lambda f, s: f"tin {f.record.tin}" if f.record.tin else "",
        **({"fields": ("tin", "mass_tin_g", "mass_tin_register_g", "mass_wet_g")} | own),
    )


def dry_tin(holds_words: str, fields: tuple[str, ...] = ("in_oven_at", "mass_dry_g"), **more: Any) -> Oven:
    """The one tin of a run dried and weighed; without a number it is called by what it holds."""

    def drying(f: Any) -> list[tuple[str, str]]:
        wet, dry = f.record.mass_wet_g, f.record.mass_dry_g
        return [("mass_dry_g", f.record.tin or holds_words)] if wet is not None and dry is None else []

    own: dict[str, Any] = {"does": "Overnight; cool with the lid on, weigh."} | more
    return Oven(
        key="dry",
        title="Dry and weigh it",
        fields=fields,
        needs=("mass_dry_g",),
        gives="dry density",
        tins=drying,
        cautions=("Hot tins: gloves and tongs.",),
        holds=("oven",),
        **own,
    )


def tins_into_oven(**more: Any) -> Oven:
    """All tins of a run into the oven at once."""
    return Oven(
        key="oven",
        title="Tins into the oven",
        does="Lids off, overnight at the heat that the school says.",
        fields=("in_oven_at",),
        is_done=lambda f, s: f.record.in_oven_at is not None,
        cautions=("Hot shelves and tins: gloves and tongs.",),
        holds=("oven",),
        note=lambda f, s: "" if f.record.in_oven_at is None else f"since {f.record.in_oven_at:%d %b %H:%M}",
        **more,
    )


def drying_beside(f: Any) -> list[tuple[str, str]]:
    """The tins of a record's list that were weighed wet and are not dry yet: path of the dry mass, name."""
    return [
        (f"tins[{i}].mass_dry_g", t.tin or str(i + 1))
        for i, t in enumerate(f.record.tins)
        if t.mass_wet_g is not None and t.mass_dry_g is None
    ]


def since_beside(f: Any) -> datetime | None:
    """Since when the first of them dries."""
    return next((t.weighed_wet_at for t in f.record.tins if t.mass_wet_g is not None and t.mass_dry_g is None), None)


def dry_beside(**more: Any) -> Oven:
    """The tins beside a test in the field, dried and weighed."""
    own: dict[str, Any] = {"does": "Overnight; cool with the lid on, weigh."} | more
    return Oven(
        key="dry",
        title="Dry and weigh it",
        fields=("tins[].mass_dry_g", "remarks"),
        tins=drying_beside,
        since=since_beside,
        in_oven="",
        cautions=("Hot tins: gloves and tongs.",),
        hands_s=300,
        holds=("oven",),
        **own,
    )
