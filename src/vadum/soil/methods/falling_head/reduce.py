"""The field-saturated conductivity of each cylinder by fit and by slope, and of the place."""

import math

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import plain, rounded, significant_step
from vadum.soil.contract.outcome import Cell, Missing, Outcome, Table
from vadum.soil.contract.results import Results
from vadum.soil.methods.falling_head.facts import Facts, One
from vadum.soil.methods.falling_head.school import InfiltrationSchool
from vadum.soil.shared import infiltration
from vadum.soil.shared.conductivity import MM_H, at_temperature

SOURCE = "Philip 1993; Nestingen 2007; Ahmed, Gulliver and Nieber 2014; ASTM D8152"
PER_INCH = 25.4
T95 = 1.96


def _step(value: float) -> float:
    return significant_step(value, 3)


def _short(value: float) -> str:
    """A figure of three digits for a sentence."""
    return rounded(value, min(_step(value), 1.0)) if value else "0"


def open_words(one: One) -> str:
    """Why a cylinder's conductivity is only an estimate; empty where it is not."""
    if not one.over:
        return "it is empty or may stop"
    return "" if one.gain is not None and one.gain.after_said else "the moisture after is read"


def _give_one(results: Results, one: One, facts: Facts, school: InfiltrationSchool) -> None:
    if one.found is None or one.cylinder is None or one.gain is None:
        return
    prefix, found = f"c{one.row + 1}_", one.found
    open_ = open_words(one)
    value = MM_H * found.fit.k_cm_s
    class_ = f"{'' if facts.texture_said else '# '}C {plain(found.fit.suction_cm, 3)} cm of {facts.texture.name}"
    if school.suction == "free":
        class_ = f"C {plain(found.fit.suction_cm, 3)} cm fitted with it: no property of the soil"
    results.work(
        f"{prefix}gain",
        "dtheta",
        "after - before",
        {"after": one.gain.after, "before": one.gain.before},
        one.gain.value,
        note="" if one.gain.after_said else "# full pores after, until it is read",
    )
    last = one.points[-1].level_cm
    results.work(
        f"{prefix}front",
        "R",
        "R",
        {"R": infiltration.front_cm(one.cylinder, max(last, 0.0))},
        infiltration.front_cm(one.cylinder, max(last, 0.0)),
        "cm",
        note="radius of the wetted sphere at the end; a truncated sphere from the start",
    )
    results.give(
        f"{prefix}kfs_mm_h",
        "K_fs",
        f"conductivity, {one.name}",
        value,
        "mm/h",
        _step(value),
        "36000 * K",
        {"K": found.fit.k_cm_s},
        note=f"least squares on {found.fit.n} levels, {found.fit.rms_cm * 10:.1f} mm about them; {class_}",
        uncertainty=value * found.u_ln_k,
        estimate=bool(open_),
        until=open_,
    )
    if found.free is not None:
        low, high = (MM_H * k for k in found.free.k_interval)
        c_low, c_high = found.free.c_interval
        words = (
            f"{_short(MM_H * found.free.fit.k_cm_s)} mm/h ({_short(low)} to {_short(high)}), "
            f"C {_short(found.free.fit.suction_cm)} cm ({_short(c_low)} to {_short(c_high)})"
        )
        results.say(f"{prefix}free", "", f"both fitted, {one.name}", "", words, provisional=bool(open_))
    if found.late.last_cm_s is not None:
        slope = MM_H * found.late.last_cm_s
        results.give(
            f"{prefix}late_mm_h",
            "K_l",
            f"by the slope of the last third, {one.name}",
            slope,
            "mm/h",
            _step(slope),
            "36000 * K",
            {"K": found.late.last_cm_s},
            uncertainty=slope * found.u_ln_k,
            estimate=bool(open_),
            until=open_,
        )


class Site:
    """Conductivities of a place, log-normal: geometric and arithmetic mean, the least, the interval's factor."""

    def __init__(self, values: list[float]) -> None:
        self.values = values
        n = len(values)
        logs = [math.log(v) for v in values]
        self.mean_ln = math.fsum(logs) / n
        self.geometric = math.exp(self.mean_ln)
        self.arithmetic = math.fsum(values) / n
        self.least = min(values)
        self.sd_ln = math.sqrt(math.fsum((x - self.mean_ln) ** 2 for x in logs) / (n - 1)) if n > 1 else None

    @property
    def factor(self) -> float | None:
        """The factor of a 95 % interval of the geometric mean; None below two."""
        if self.sd_ln is None:
            return None
        from scipy.stats import t as student  # half a second to import, and few ask for it

        n = len(self.values)
        return math.exp(float(student.ppf(0.975, n - 1)) * self.sd_ln / math.sqrt(n))


def _site_value(site: Site, school: InfiltrationSchool) -> tuple[float, str, str, dict[str, float]]:
    """The value that stands for the place, in words, and how it is worked out."""
    n = len(site.values)
    inputs = {f"K_{i + 1}": v for i, v in enumerate(site.values)}
    names = list(inputs)
    if n == 1:
        return site.values[0], "one cylinder", "K_1", inputs
    if n < 3 or school.site == "least":
        least = names[site.values.index(site.least)]
        return site.least, f"least of {n}", least, {least: site.least}
    geometric = f"({' * '.join(names)}) ** (1 / {n})"
    if school.site == "effective":
        a = school.effective_share
        value = a * site.arithmetic + (1 - a) * site.geometric
        return (
            value,
            f"effective mean of {n}",
            f"a * ({' + '.join(names)}) / {n} + (1 - a) * {geometric}",
            inputs | {"a": a},
        )
    return site.geometric, f"geometric mean of {n}", geometric, inputs


def _give_site(results: Results, facts: Facts, school: InfiltrationSchool) -> None:
    ones = facts.counted
    if not ones:
        return
    k = [MM_H * one.found.fit.k_cm_s for one in ones if one.found is not None]
    site = Site(k)
    open_ = next((w for one in ones if (w := open_words(one))), "")
    waits = open_ or ("every cylinder is read" if any(o.counts and o.found is None for o in facts.ones) else "")
    value, words, formula, inputs = _site_value(site, school)
    own = max(one.found.u_ln_k for one in ones if one.found is not None)
    spread = site.sd_ln / math.sqrt(len(k)) if site.sd_ln is not None else 0.0
    u = value * math.hypot(own, spread)

    def give(
        key: str, symbol: str, name: str, v: float, unit: str, f: str, i: dict[str, float], note: str = ""
    ) -> None:
        results.give(
            key,
            symbol,
            name,
            v,
            unit,
            _step(v),
            f,
            i,
            note=note,
            uncertainty=abs(u / value * v),
            estimate=bool(waits),
            until=waits,
        )

    give("kfs_mm_h", "K_fs", f"field-saturated conductivity, {words}", value, "mm/h", formula, inputs)
    give("kfs_m_s", "K_fs", "the same", value / 3.6e6, "m/s", "K / 3.6e6", {"K": value})
    give("kfs_in_h", "K_fs", "the same", value / PER_INCH, "in/h", "K / 25.4", {"K": value})
    warm = [float(o.standing.temperature_c) for o in ones if known(o.standing.temperature_c)]
    if warm:
        mean = math.fsum(warm) / len(warm)
        referred = at_temperature(value, mean, school.to_c)
        if referred is not None:
            give(
                "k20_mm_h",
                "K_20",
                f"referred to {school.to_c:g} °C",
                referred,
                "mm/h",
                "K * r",
                {"K": value, "r": referred / value},
                f"water at {mean:.1f} °C",
            )
    if len(k) > 1:
        give(
            "mean_mm_h",
            "K_a",
            "arithmetic mean",
            site.arithmetic,
            "mm/h",
            f"({' + '.join(list(inputs)[: len(k)])}) / n",
            {**{f"K_{i + 1}": v for i, v in enumerate(k)}, "n": len(k)},
        )
        results.say("least_mm_h", "", "least and greatest", "mm/h", f"{_short(min(k))} to {_short(max(k))}")
        if site.factor is not None and len(k) > 2:
            low, high = site.geometric / site.factor, site.geometric * site.factor
            results.say("interval_mm_h", "", "95 % of the geometric mean", "mm/h", f"{_short(low)} to {_short(high)}")
    head = facts.record.head_mm
    if known(head):
        one = ones[0]
        assert one.cylinder is not None
        assert one.found is not None
        per_k = infiltration.rate_cm_s(one.cylinder, 1.0, one.found.fit.suction_cm, head / 10)
        give(
            "rate_mm_h",
            "i",
            f"infiltration at {plain(head)} mm of water",
            value * per_k,
            "mm/h",
            "K * r",
            {"K": value, "r": per_k},
            "around a cylinder like the first, as it begins",
        )


def _series(facts: Facts, school: InfiltrationSchool) -> dict[str, Table]:
    levels: list[dict[str, Cell]] = []
    curves: list[dict[str, Cell]] = []
    for one in facts.ones:
        levels += [
            {"cylinder": one.name, "minutes": p.seconds / 60, "level": p.level_cm, "row": p.row + 1} for p in one.points
        ]
        if one.found is None or one.cylinder is None:
            continue
        curve = infiltration.Curve(one.cylinder, school.empty_mm / 10)
        times = curve.times_of_one(one.found.fit.suction_cm) / one.found.fit.k_cm_s
        first = one.points[0].seconds
        for i in range(0, len(times), 8):
            curves.append(
                {
                    "cylinder": one.name,
                    "minutes": (first + float(times[i])) / 60,
                    "level": float(curve.levels[i]),
                }
            )
    return {"levels": tuple(levels), "fits": tuple(curves)}


def reduce(facts: Facts, school: InfiltrationSchool) -> Outcome:
    """Everything that the readings so far allow."""
    results = Results(SOURCE)
    for one in facts.ones:
        if one.counts:
            _give_one(results, one, facts, school)
    _give_site(results, facts, school)
    missing = []
    if not facts.counted:
        missing.append(Missing(name="conductivity", waits_for="levels of a cylinder", at="cylinders"))
    return Outcome(
        method="falling_head",
        school=school.name,
        values=tuple(results.values),
        missing=tuple(missing),
        working=tuple(results.working),
        series=_series(facts, school),
    )
