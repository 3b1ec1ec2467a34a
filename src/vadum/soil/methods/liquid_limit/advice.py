"""What now, at the dish: which band next, how much water, when the oven may be opened."""

import math
from datetime import datetime, timedelta

from vadum.soil.contract.numerics import plain
from vadum.soil.contract.outcome import Advice, Due, Outcome
from vadum.soil.contract.times import clock, minutes_between, span
from vadum.soil.contract.waits import oven_advice
from vadum.soil.methods.liquid_limit.dish import Dish, consistency_shift, followed
from vadum.soil.methods.liquid_limit.facts import Facts
from vadum.soil.methods.liquid_limit.points import (
    abscissa,
    aim,
    band_words,
    missing_bands,
    penetrations,
    points,
    repeats_agree,
)
from vadum.soil.methods.liquid_limit.record import Record, Trial
from vadum.soil.methods.liquid_limit.school import Band, LiquidLimitSchool

MOST_WATER_ML = 3.0  # laboratory practice: never more than 3 mL at a time, never less than about 1


def _reading(school: LiquidLimitSchool) -> str:
    return "blows" if school.apparatus == "cup" else "penetration_mm"


def _unit(school: LiquidLimitSchool) -> str:
    return "drops" if school.apparatus == "cup" else "mm"


def _hands(what: str, path: str, seconds: int, label: str = "") -> tuple[Due, ...]:
    return (Due(what=what, kind="hands", path=path, hands_s=seconds, label=label),)


def _prepare(record: Record, school: LiquidLimitSchool, now: datetime) -> Advice | None:
    """Until the first closure: device, soil, first water, seasoning."""
    if record.device is None:
        what = "Take the device and its grooving tool" if school.apparatus == "cup" else "Take the cone"
        return Advice(
            headline=f"{what}.",
            detail="Its number brings its inspection. Drop height, worn spot and feet are looked at first.",
            wants=("device", "dry_soil_g", "air_dry_water_percent"),
            due=_hands(what, "device", 300),
        )
    if record.dry_soil_g is None:
        what = "Sieve the soil over 0.425 mm and weigh what you take"
        return Advice(
            headline=f"{what}.",
            detail="With its mass the water to add can be told in millilitres.",
            wants=("dry_soil_g", "air_dry_water_percent"),
            due=_hands(what, "dry_soil_g", 900),
        )
    first = record.trials[0] if record.trials else Trial()
    if first.water_added_ml is None:
        what = "Wet it to a stiff paste and note the water"
        return Advice(
            headline=f"{what}.",
            detail="Mix up to 20 min until no dry crumb is left. Keep the running total honest: every millilitre.",
            wants=(
                *(("air_dry_water_percent",) if record.air_dry_water_percent is None else ()),
                "trials[0].water_added_ml",
                "seasoned_from_at",
            ),
            due=_hands(what, "trials[0].water_added_ml", 1200),
        )
    if record.seasoned_from_at is None:
        return Advice(
            headline="Close the dish and let it season.",
            detail=f"{span(school.season_min)} closed; a fat clay wants the night.",
            wants=("seasoned_from_at",),
            due=_hands("Close the dish to season", "seasoned_from_at", 60),
        )
    ready = record.seasoned_from_at + timedelta(minutes=school.season_min)
    left = minutes_between(now, ready)
    field = "verification_blows" if school.verified else _reading(school)
    wants = ("trials[0].mass_dish_g", f"trials[0].{field}")
    due = Due(
        what="First trial",
        kind="wait",
        at=ready,
        since=record.seasoned_from_at,
        path=wants[0],
        hands_s=360,
        label="first trial",
        detail="Weigh the dish, then spread, groove and turn.",
    )
    if left > 0:
        return Advice(
            headline=f"Seasoning until {clock(ready, now)}.",
            detail="Leave it closed. Nothing to do for this soil.",
            amount=clock(ready, now),
            amount_note=f"in {span(left)}",
            wants=wants,
            due=(due,),
        )
    return Advice(
        headline="Seasoned. Weigh the dish, then the first trial.",
        detail="Spread 10 mm deep and level, one clean groove, two drops a second."
        if school.apparatus == "cup"
        else "Fill the cup without air, level it, let the cone just touch.",
        wants=wants,
        due=(due,),
    )


def nearest_band(x: float, bands: list[Band]) -> Band:
    """The missing band nearest in consistency to the last closure; of two as near, the wetter (fewer drops).

    >>> nearest_band(28.0, [(15, 20), (30, 35)])
    (30, 35)
    """

    def away(band: Band) -> tuple[float, float]:
        return (round(abs(math.log(math.sqrt(band[0] * band[1]) / x)), 9), band[0])

    return min(bands, key=away)


def _change(x: float, band: Band, w_percent: float | None, dish: Dish | None, school: LiquidLimitSchool) -> Advice:
    """How much water in or out takes the dish from x into the middle of the band. Wants are set by the caller."""
    middle = aim(band, school)
    if band[0] <= school.target <= band[1] and len(school.bands) == 1:
        middle = school.target
    shift = consistency_shift(x, middle, school)
    wetter = shift > 0
    words, unit = band_words(band), _unit(school)
    seen = f"{plain(x)} {unit}: too {'dry' if wetter else 'wet'} for {words}."
    if dish is None:
        w_known = f"{plain(abs(shift) * (w_percent or 0), 2)} points of water content" if w_percent else ""
        return Advice(
            headline=f"{seen} " + ("Add water." if wetter else "Stir it drier in the open."),
            detail=f"About {plain(100 * abs(shift), 2)} % {'more' if wetter else 'less'} water than now"
            + (f" ({w_known})" if w_known else "")
            + ", in steps of 1 to 3 mL. Note the soil's mass and it is told in millilitres.",
        )
    grams = abs(shift) * dish.water_g
    if wetter:
        step = min(grams, MOST_WATER_ML)
        rest = f" About {grams:.1f} mL in all: in steps of 1 to 3." if grams > MOST_WATER_ML else ""
        return Advice(
            headline=f"{seen} Add water and mix well.",
            detail=f"To the middle of {words} {unit}.{rest}",
            amount=f"{step:.1f} mL",
            amount_note="to add now",
        )
    note = f"{grams:.1f} g to lose"
    detail = "Never dry soil into it, never a fan: it crusts. Keep stirring."
    if dish.reading_g is None:
        return Advice(
            headline=f"{seen} Weigh the dish, then stir until it has lost",
            detail=detail,
            amount=f"{grams:.1f} g",
            amount_note="weigh the dish first",
        )
    return Advice(
        headline=f"{seen} Stir in the open until the dish weighs",
        detail=detail,
        amount=f"{dish.reading_g - grams:.1f} g",
        amount_note=f"now {dish.reading_g:.1f} · {note}",
    )


def _closure(index: int, trial: Trial, school: LiquidLimitSchool, target: Band) -> Advice:
    """The dish is ready: spread, groove, turn."""
    words = f"{band_words(target)} {_unit(school)}"
    if school.apparatus == "cone":
        what = f"Trial for {words}"
        return Advice(
            headline=f"{what}: fill, level, drop the cone.",
            detail="Clean, dry cone; its tip just touching; released for 5 s.",
            wants=(f"trials[{index}].penetration_mm",),
            due=_hands(what, f"trials[{index}].penetration_mm", 300, words),
        )
    field = "blows"
    detail = "Stop when 13 mm has closed at the bottom."
    if school.verified:
        first = trial.verification_blows is None
        field = "verification_blows" if first else "blows"
        detail = "First closure." if first else "Remix, no water, again at once: within 2 drops of the first."
    return Advice(
        headline=f"Spread, groove and turn for {words}.",
        detail=detail,
        wants=(f"trials[{index}].{field}",),
        due=_hands(f"Trial in the {words} band", f"trials[{index}].{field}", 360, words),
    )


def _repeat_owed(index: int, trial: Trial, school: LiquidLimitSchool) -> Advice | None:
    """The cone dropped again into the refilled cup, before the tin is filled."""
    if school.apparatus != "cone" or trial.mass_wet_g is not None or school.repeat_mm is None:
        return None
    found = penetrations(trial)
    if repeats_agree(trial, school) is not None or not 1 <= len(found) <= 2:
        return None
    field = ("second_penetration_mm", "third_penetration_mm")[len(found) - 1]
    path = f"trials[{index}].{field}"
    word = "second" if len(found) == 1 else "third"
    limit = school.repeat_mm if len(found) == 1 else school.third_mm
    return Advice(
        headline=f"{plain(found[-1])} mm. Refill, level, drop the cone a {word} time.",
        detail=f"Within {plain(limit)} mm of the other{'s' if len(found) > 1 else ''}: the mean counts.",
        wants=(path,),
        due=_hands(f"A {word} penetration", path, 180, f"trial {index + 1}"),
    )


def _seen(trial: Trial, school: LiquidLimitSchool, missing: list[tuple[float, float]]) -> float | None:
    """What a trial came to: its closure; where a second one has to confirm it, a first that lies in no open band tells
    enough, and the water to add is said at once."""
    x = abscissa(trial, school)
    first = trial.verification_blows
    if x is not None or not school.verified or first is None:
        return x
    return None if any(low <= first <= high for low, high in missing) else float(first)


def _trials(record: Record, school: LiquidLimitSchool) -> Advice | None:
    """While a band is open or a kept trial has no tin."""
    for i, trial in enumerate(record.trials):
        x = abscissa(trial, school)
        low, high = school.accepted
        if x is None or trial.excluded_because or not low <= x <= high:
            continue
        if school.verified and trial.verification_blows is not None and trial.blows is None:
            continue
        owed = _repeat_owed(i, trial, school)
        if owed:
            return owed
        wants = tuple(f"trials[{i}].{f}" for f in ("tin", "mass_tin_g", "mass_wet_g") if getattr(trial, f) is None)
        point = next((p for p in points(record, school) if p.row == i), None)
        if wants and point and point.counts:
            return Advice(
                headline=f"{plain(x)} {_unit(school)}: it counts. A slice across the closure into a tin.",
                detail="From edge to edge, at right angles to the groove. Lid on, weigh at once.",
                wants=wants,
                due=_hands(f"Trial {i + 1} into its tin", wants[0], 90, f"tin, trial {i + 1}"),
            )
    missing = missing_bands(record, school)
    if not missing:
        return None
    last = record.trials[-1] if record.trials else Trial()
    open_row = _seen(last, school, missing) is None
    index = len(record.trials) - 1 if open_row else len(record.trials)
    closed = [(t, x) for t in record.trials if (x := _seen(t, school, missing)) is not None and not t.excluded_because]
    if not closed:
        return _closure(max(index, 0), last if open_row else Trial(), school, school.bands[0])
    x = closed[-1][1]
    target = nearest_band(x, missing)
    touched = open_row and (last.water_added_ml is not None or last.mass_dish_g is not None or last.verification_blows)
    if touched:
        return _closure(index, last, school, target)
    if target[0] <= x <= target[1]:
        # The last closure lies in the open band but could not be used (not verified, or a repeat is owed).
        return _closure(index, Trial(), school, target)
    estimates, dish = followed(record)
    w_last = next((w for w in reversed(estimates) if w is not None), None)
    advice = _change(x, target, w_last, dish, school)
    wetter = consistency_shift(x, aim(target, school), school) > 0
    change = "water_added_ml" if wetter else "mass_dish_g"
    field = "verification_blows" if school.verified else _reading(school)
    wants = (f"trials[{index}].{change}", f"trials[{index}].{field}")
    words = f"{band_words(target)} {_unit(school)}"
    what = f"Trial in the {words} band"
    first = ""
    if advice.amount:
        first = (
            f"First add {advice.amount} of water." if wetter else f"First stir until the dish weighs {advice.amount}."
        )
        if not wetter and dish is not None and dish.reading_g is None:
            first = f"First stir until the dish has lost {advice.amount}."
    due = tuple(d.model_copy(update={"detail": first}) for d in _hands(what, wants[0], 600, words))
    return advice.model_copy(update={"wants": wants, "due": due})


def _oven(record: Record, school: LiquidLimitSchool, now: datetime) -> Advice | None:
    """The tins' night, and their dry masses."""
    counting = {p.row for p in points(record, school) if p.counts}
    tins = [
        (f"trials[{i}].mass_dry_g", t.tin or f"trial {i + 1}")
        for i, t in enumerate(record.trials)
        if i in counting and t.mass_dry_g is None
    ]
    return oven_advice(tins, record.in_oven_at, school.oven_min, now, "All bands are in. ", oven_c=school.oven_c)


def _lapsed(record: Record) -> Advice | None:
    """A device out of date is inspected, or a reason is asked; nothing is forbidden."""
    due, tested = record.device_due_on, record.tested_on
    if due is None or tested is None or tested <= due or record.device_reason:
        return None
    return Advice(
        headline=f"{record.device}: its inspection lapsed on {due:%d %b %Y}.",
        detail="Take another and strike this one, inspect it in the kit, or write why it is used: the sheet says so.",
        wants=("device_reason",),
        due=_hands(f"{record.device} has lapsed: inspect it or say why it is used", "device_reason", 300),
    )


def advise(facts: Facts, school: LiquidLimitSchool, outcome: Outcome, now: datetime) -> Advice:
    """The one next action for this soil."""
    record = facts.record
    lapsed = _lapsed(record)
    if lapsed:
        return lapsed
    if record.cannot_be_found == "yes":
        return Advice(
            headline="No liquid limit: nonplastic.",
            detail="Say so now; the plastic limit work can be saved. Sign the sheet with NP.",
            finished=True,
        )
    if not any(_seen(t, school, missing_bands(record, school)) for t in record.trials):
        preparing = _prepare(record, school, now)
        if preparing:
            first = record.trials[0] if record.trials else Trial()
            weighed = first.mass_dish_g is not None or first.verification_blows is not None
            return _closure(0, first, school, school.bands[0]) if weighed else preparing
    advice = _trials(record, school) or _oven(record, school, now)
    if advice:
        return advice
    faults = [v for v in outcome.verdicts if v.level in ("stop", "redo")]
    if faults:
        return Advice(headline=faults[0].remedy or faults[0].found, detail=faults[0].found, wants=(), due=())
    return Advice(
        headline="Done. The sheet can be signed.", detail="Every tin is dry and the rules hold.", finished=True
    )
