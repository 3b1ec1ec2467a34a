"""The rules that judge a strain modulus."""

from collections.abc import Iterator

from vadum.soil.contract import compare
from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain
from vadum.soil.contract.rules import LABORATORY, PHYSICS, Judge, Rule, Seen, at_most, said, within
from vadum.soil.methods.plate_modulus.facts import KPA, Facts
from vadum.soil.methods.plate_modulus.record import EVS
from vadum.soil.methods.plate_modulus.reduce import limits, moduli
from vadum.soil.methods.plate_modulus.school import ModulusSchool
from vadum.soil.shared.plate.rules import RULES as SHARED
from vadum.soil.shared.plate.rules import enough_steps, even_steps, runs_backwards

HOW = "Ev2 is the stiffness after the ground was pressed together once: below Ev1 something slipped or was misread."


def _lever(f: Facts, s: ModulusSchool) -> Iterator[Seen]:
    record = f.record
    register = record.lever_register_ratio
    if not known(record.lever_plate_mm) or not known(record.lever_gauge_mm):
        return
    at = ("lever_plate_mm", "lever_gauge_mm")
    if known(register):
        same = abs(f.lever - register) <= 0.01 * register
        turned = not same and abs(1 / f.lever - register) <= 0.01 * register if f.lever > 0 else False
        words = f"hP/hM {plain(f.lever, 3)}" + (", upside down" if turned else "")
        yield Seen(same, words, f"{plain(register, 3)} by the register", at, level="stop" if turned else "redo")
    yield Seen(
        compare.at_most(f.lever, s.most_lever_ratio),
        f"hP/hM {plain(f.lever, 3)}",
        f"{plain(s.most_lever_ratio)}",
        at,
        level="redo",
    )


def _beyond(f: Facts, s: ModulusSchool) -> Seen | None:
    """The second loading stays at the last but one step of the first."""
    first = sorted(one.kpa for one in f.steps if one.cycle == "first" and one.kpa is not None)
    again = [one for one in f.steps if one.cycle == "again" and one.kpa is not None]
    if len(first) < 2 or not again or not s.reloads:
        return None
    top = max(again, key=lambda one: one.kpa or 0.0)
    limit = (s.again_kpa if s.again_kpa is not None else first[-2]) / KPA
    most = s.beyond_ratio * limit
    held = compare.at_most((top.kpa or 0.0) / KPA, most)
    words = f"up to {plain((top.kpa or 0.0) / KPA, 3)} MN/m²"
    return said(held, words, f"{plain(limit, 3)} MN/m², the last but one of the first", (top.path("pump_bar"),))


def _residual(f: Facts, s: ModulusSchool) -> Iterator[Seen]:
    for name, words in (("first", "first loading"), ("again", "second loading")):
        curve = getattr(f, name)
        if curve.fit is None or len(curve.sigma) <= 3 or s.evaluates not in ("parabola", "secant"):
            continue
        span = max(curve.settled) - min(curve.settled)
        if span > 0:
            off = 100 * curve.fit.worst_mm / span
            one = at_most(
                off, s.most_residual_percent, "%", f"{words}: one point {{}} of its settlement off the curve", digits=2
            )
            assert one is not None
            yield one


def _bent(f: Facts, s: ModulusSchool) -> Seen | None:
    """A first loading that grows stiffer as the load rises, by more than its error."""
    fit = f.first.fit
    if fit is None or not f.ended or s.evaluates not in ("parabola", "secant"):
        return None
    error = fit.error_of(2) or 0.0
    held = fit.a2 >= -error
    words = f"a2 {plain(fit.a2, 3)}" + (f" ± {plain(error, 2)}" if error else "")
    return said(held, f"{words} mm/(MN/m²)²", "not below 0 by more than its error")


def _ratio(f: Facts, s: ModulusSchool) -> Iterator[Seen]:
    ev1, ev2 = moduli(f, s)
    if ev1 is None or ev2 is None or not f.over:
        return
    if ev2 < ev1:
        yield Seen(False, f"Ev2 {plain(ev2, 3)} below Ev1 {plain(ev1, 3)} MN/m²", "Ev2 above Ev1", do=HOW, level="redo")
        return
    one = within(ev2 / ev1, s.ratio_band, "", "ratio {}", digits=3)
    assert one is not None
    yield one


def _job(f: Facts, s: ModulusSchool) -> Seen | None:
    ev1, ev2 = moduli(f, s)
    held = limits(f.record, ev1, ev2) if f.over else []
    if not held:
        return None
    lost = [w for w, good in held if not good]
    return said(not lost, "; ".join(lost or [w for w, _ in held]), "as the job asks")


def _by_settlement(f: Facts, s: ModulusSchool) -> Seen | None:
    if not f.ended or s.evaluates == "subgrade reaction":
        return None
    words = f"ended at {f.limit_mm:g} mm and {plain(f.greatest or 0, 3)} MN/m²" if f.by_settlement else "reached"
    return said(not f.by_settlement, words, f"{plain(f.most_kpa / KPA)} MN/m²")


def _tilted(f: Facts, s: ModulusSchool) -> Seen | None:
    tilt = f.record.tilt_degrees
    return at_most(tilt if known(tilt) else None, s.most_tilt_degrees, "°", "ground tilted by {}")


def _gypsum(f: Facts, s: ModulusSchool) -> Seen | None:
    if f.record.levelling != "gypsum paste":
        return None
    return said(f.record.gypsum_set == "yes", "set" if f.record.gypsum_set == "yes" else "not said to have set", "set")


def _frozen(f: Facts, s: ModulusSchool) -> Seen | None:
    frozen = f.record.frozen
    return said(None if frozen is None else frozen == "no", f"frozen: {frozen}", "no frost in the ground")


def _narrow(f: Facts, s: ModulusSchool) -> Seen | None:
    if s.evaluates != "subgrade reaction" or not f.record.plate_width_mm:
        return None
    held = f.width_mm >= s.k_width_mm
    return said(held, f"plate of {f.width_mm:g} mm", f"{s.k_width_mm:g} mm or wider")


RULES: tuple[Judge, ...] = (
    *SHARED,
    Rule(
        "lever as registered",
        _lever,
        do="Enter the lever as it stands: pivot to the plate's foot, then to the gauge.",
        affects=EVS,
    ),
    Rule(
        "steps enough",
        lambda f, s: enough_steps(f, s, f.ended),
        do="Repeat beside it with smaller steps: so few points draw no curve.",
    ),
    Rule(
        "steps even",
        even_steps,
        source=LABORATORY,
        level="watch",
        do="Space the steps that are still to come evenly: a curve through uneven steps leans on the close ones.",
    ),
    Rule(
        "settlement runs forward",
        runs_backwards,
        source=PHYSICS,
        do="Look at the gauge and at the slip of the reading; repeat beside it where it stands.",
    ),
    Rule(
        "second loading below the first",
        _beyond,
        do="Repeat beside it: above the earlier stress it presses ground together that was not pressed before.",
    ),
    Rule(
        "curve fits its readings",
        _residual,
        source=LABORATORY,
        level="watch",
        do="Look at the reading that lies off: a step left too soon, a slip, a plate that shifted.",
    ),
    Rule(
        "first loading softens",
        _bent,
        source=LABORATORY,
        level="watch",
        do="It stiffens as it is loaded: look at the bedding beneath the plate.",
    ),
    Rule(
        "ratio of the moduli",
        _ratio,
        source=LABORATORY,
        level="watch",
        do="Look at the layer: a high ratio speaks of ground that is not yet compacted, a low one of a slip.",
    ),
    Rule(
        "the job's limits",
        _job,
        source="the job",
        level="watch",
        do="Report it to the engineer; compact and test again where the job says so.",
    ),
    Rule(
        "loaded to its greatest stress",
        _by_settlement,
        level="watch",
        do="Said on the sheet: the stress that was reached stands for the greatest.",
    ),
    Rule(
        "ground level",
        _tilted,
        at=("tilt_degrees",),
        source=LABORATORY,
        level="watch",
        do="Cut the patch level; a plate on a slope slides.",
    ),
    Rule("gypsum has set", _gypsum, at=("gypsum_set",), level="watch", do="Wait until it has set, then say so."),
    Rule(
        "no frost",
        _frozen,
        at=("frozen",),
        level="redo",
        do="Test when it has thawed: ice is stiff, the ground is not.",
    ),
    Rule(
        "plate wide enough for k",
        _narrow,
        at=("plate_width_mm",),
        level="stop",
        affects=("ks_mn_m3", "ks_corrected_mn_m3"),
        do="Take the wide plate: a narrow one gives no modulus of subgrade reaction without a conversion that is said.",
    ),
)
