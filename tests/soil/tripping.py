"""For each check of each method: a school, and changes to a good record that trip the check."""

from datetime import timedelta
from typing import Any


def rows(name: str, index: int, **changes: Any) -> Any:
    """Change one row of the good record."""

    def change(record: dict[str, Any]) -> dict[str, Any]:
        values = [dict(row) for row in record[name]]
        values[index].update(changes)
        return {name: values}

    return change


def fields(**changes: Any) -> Any:
    """Change plain fields of the good record."""
    return lambda record: changes


def a_tin_twice(name: str) -> Any:
    """The second row's tin bears the first one's number."""
    return lambda record: rows(name, 1, tin=record[name][0]["tin"])(record)


def a_second_tin(record: dict[str, Any]) -> dict[str, Any]:
    return {"tins": [record["tins"][0], record["tins"][0]]}


def heavier_last(record: dict[str, Any]) -> dict[str, Any]:
    last = dict(record["weighings"][-1])
    moved = {**last, "mass_dry_g": last["mass_dry_g"] - 4}
    return {"weighings": [*record["weighings"], moved]}


def weighed_at_once(record: dict[str, Any]) -> dict[str, Any]:
    first = {**record["weighings"][0], "weighed_at": record["in_oven_at"] + timedelta(minutes=30)}
    return {"weighings": [first]}


def weighed_twice_at_once(record: dict[str, Any]) -> dict[str, Any]:
    first, second = record["weighings"][:2]
    return {"weighings": [first, {**second, "weighed_at": first["weighed_at"] + timedelta(minutes=3)}]}


def just_below_the_plastic_limit(record: dict[str, Any]) -> dict[str, Any]:
    found = [
        100 * (d["mass_wet_g"] - d["mass_dry_g"]) / (d["mass_dry_g"] - d["mass_tin_g"])
        for d in record["determinations"]
    ]
    return {"liquid_limit_percent": 0.9 * sum(found) / len(found)}


def rising_line(record: dict[str, Any]) -> dict[str, Any]:
    """The tins of the trials in the opposite order."""
    masses = [{k: t[k] for k in ("tin", "mass_tin_g", "mass_wet_g", "mass_dry_g")} for t in record["trials"]]
    return {"trials": [{**t, **m} for t, m in zip(record["trials"], reversed(masses), strict=True)]}


def close_together(record: dict[str, Any]) -> dict[str, Any]:
    return {"trials": [{**t, "blows": 27 - i} for i, t in enumerate(record["trials"])]}


def falls_apart(record: dict[str, Any]) -> dict[str, Any]:
    first = {**record["trials"][0], "second_penetration_mm": record["trials"][0]["penetration_mm"] + 3}
    return {"trials": [{**first, "third_penetration_mm": first["penetration_mm"] + 1.5}, *record["trials"][1:]]}


def seasoned_for_a_minute(record: dict[str, Any]) -> dict[str, Any]:
    return {"seasoned_from_at": record["trials"][0]["closed_at"] - timedelta(minutes=1)}


def late(record: dict[str, Any]) -> dict[str, Any]:
    began = record["in_oven_at"]
    return {"sampled_at": began - timedelta(hours=60), "weighed_wet_at": began - timedelta(minutes=5)}


def all_blows_above(record: dict[str, Any]) -> dict[str, Any]:
    return {"trials": [{**t, "blows": 34 - 2 * i} for i, t in enumerate(record["trials"])]}


def askew(record: dict[str, Any]) -> dict[str, Any]:
    return {"headspaces": [{**h, "headspace_mm": 3.0 + 4 * i} for i, h in enumerate(record["headspaces"])]}


def upward(record: dict[str, Any]) -> dict[str, Any]:
    heavier = (160, 0, -80, 0, 160)
    rows = zip(record["points"], heavier, strict=True)
    return {"points": [{**p, "mass_with_soil_g": 6000 + more} for p, more in rows]}


def only_dry(record: dict[str, Any]) -> dict[str, Any]:
    first, wet = {**record["points"][0], "tin": "none"}, {**record["points"][3], "excluded_because": "x"}
    return {"points": [*record["points"][:3], wet, first]}


def always_denser(record: dict[str, Any]) -> dict[str, Any]:
    rows = enumerate(record["points"])
    return {"points": [{**p, "mass_with_soil_g": 5700 + 100 * i - 4 * i * i} for i, p in rows]}


def torn_bag(record: dict[str, Any]) -> dict[str, Any]:
    return {"mass_soil_lab_g": 0.95 * record["mass_soil_field_g"]}


def late_reading(record: dict[str, Any]) -> dict[str, Any]:
    row = record["readings"][2]
    return {"readings": [*record["readings"][:2], {**row, "read_at": row["read_at"] + timedelta(seconds=50)}]}


def passed_over(record: dict[str, Any]) -> dict[str, Any]:
    return {"readings": [*record["readings"][:2], *record["readings"][3:]]}


def put_in_late(record: dict[str, Any]) -> dict[str, Any]:
    row = record["readings"][3]
    return rows("readings", 3, inserted_at=row["read_at"] - timedelta(seconds=5))(record)


def risen(record: dict[str, Any]) -> dict[str, Any]:
    stems = {f: record["readings"][0][f] for f in ("reading_g_l", "reading_sg")}
    return {"readings": [*record["readings"][:5], {**record["readings"][5], **stems}, *record["readings"][6:]]}


def soaked_for_an_hour(record: dict[str, Any]) -> dict[str, Any]:
    return {"soaked_from_at": record["started_at"] - timedelta(hours=1)}


def _dry(mass_g: float, volume_cm3: float, record: dict[str, Any]) -> float:
    tin, wet, dry = (record[f"mass_{k}_g"] for k in ("tin", "wet", "dry"))
    return float(mass_g / volume_cm3 / (1 + (wet - dry) / (dry - tin)))


def hardly_denser_than_dry(record: dict[str, Any]) -> dict[str, Any]:
    """Solids that leave next to no pores: the water does not fit."""
    heads = [h["headspace_mm"] for h in record["headspaces"]]
    volume = 0.7853981634 * record["ring_diameter_mm"] ** 2 * (record["ring_height_mm"] - sum(heads) / 4) / 1000
    mass = record["mass_with_soil_g"] - record["mass_container_g"]
    return {"particle_density_mg_m3": max(1.05 * _dry(mass, volume, record), 1.0)}


def hole_hardly_denser_than_dry(record: dict[str, Any]) -> dict[str, Any]:
    sand = record["mass_sand_before_g"] - record["mass_sand_after_g"] - record["mass_sand_cone_g"]
    volume = sand / record["sand_density_mg_m3"]
    return {"particle_density_mg_m3": 1.05 * _dry(record["mass_soil_field_g"], volume, record)}


def six_weeks_old(record: dict[str, Any]) -> dict[str, Any]:
    return {"dispersant_made_on": record["tested_on"] - timedelta(days=42)}


def falling(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    rows_ = [dict(r) for r in record[name]]
    rows_[20]["ring_div"] = rows_[19]["ring_div"] * 0.7
    return {name: rows_}


def backward(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    rows_ = [dict(r) for r in record[name]]
    rows_[9]["penetration_mm"] = 1.0
    return {name: rows_}


def steepening(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    return {name: [{**r, "ring_div": 4 + 1.9 * i**1.5} for i, r in enumerate(record[name])]}


def far_shifted(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    curve = [2.0 if i < 11 else 400 * (i - 11) / (20 + (i - 11)) for i in range(31)]
    return {name: [{**r, "ring_div": 2 + d} for r, d in zip(record[name], curve, strict=True)]}


def a_gap(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    gone = [{**r, "ring_div": None, "missed": "missed"} if 9 <= i <= 11 else r for i, r in enumerate(record[name])]
    return {name: gone}


def hurried(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    first = record[name][0]["read_at"]
    return {name: [{**r, "read_at": first + (r["read_at"] - first) / 2} for r in record[name]]}


def short(record: dict[str, Any]) -> dict[str, Any]:
    name, stopped = ("top", "top_stopped") if "top" in record else ("readings", "stopped")
    return {name: record[name][:13], stopped: "ring at its limit"}


def jumped(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    return {name: [{**r, "noted": "datum jumped"} if i == 9 else r for i, r in enumerate(record[name])]}


def second_higher(record: dict[str, Any]) -> dict[str, Any]:
    name = "top" if "top" in record else "readings"
    return {name: [{**r, "ring_div": 60.0 * i} for i, r in enumerate(record[name])]}


def lifted(record: dict[str, Any]) -> dict[str, Any]:
    flat = record["readings"][12]["ring_div"]
    rows_ = [{**r, "ring_div": min(r["ring_div"], flat)} for r in record["readings"]]
    rows_[-1]["vehicle_mm"] = 4.0
    return {"readings": rows_}


def pushes(school: str, coarse: str, drawn: dict[str, Any], seat: str) -> dict[str, Any]:
    """What trips the checks that both bearing ratios share."""
    return {
        "balance_in_date": (school, fields(balance_in_date="no")),
        "readings_can_be": (school, backward),
        "ring_within_its_calibration": (school, fields(ring_most_div=100.0)),
        "ring_at_zero_as_seated": (school, fields(**{seat.replace("seating_n", "seated_div"): 40.0})),
        "seating_of_its_class": (school, fields(**{seat: 400.0})),
        "rate_within_band": (school, hurried),
        "readings_not_missed": (school, a_gap),
        "force_never_falls": (school, falling),
        "correction_small": (school, far_shifted),
        "zero_drawn_as_computed": (school, fields(**drawn)),
        "bends_over": (school, steepening),
        "reached_the_second": (school, short),
        "second_not_higher": (coarse, second_higher),
        "nothing_happened": (school, jumped),
        "no_stone_under": (school, fields(stone_under_mm=31.0)),
        "apparatus_in_date": (school, fields(proving_ring_in_date="no")),
    }


def every(name: str, inner: str, change: Any) -> Any:
    """Change every row of a list within the first row of a list."""

    def changed(record: dict[str, Any]) -> dict[str, Any]:
        first, *others = [dict(row) for row in record[name]]
        first[inner] = [change(dict(row)) for row in first[inner]]
        return {name: [first, *others]}

    return changed


TRIPPED: dict[str, dict[str, Any]] = {
    "direct_shear": {
        "traverses apart": ("d3080", rows("stages", 0, reversals=[{"force_n": -40.0}, {"force_n": 60.0}])),
    },
    "triaxial": {
        "no pore pressure": ("d4767", every("specimens", "shear", lambda row: {**row, "pore_kpa": None})),
        "no step of B": ("d4767", rows("specimens", 0, increments=[])),
        "crept": (
            "d2850",
            every("specimens", "shear", lambda row: {**row, "elapsed_s": 4 * (row["elapsed_s"] or 0.0)}),
        ),
        "no readings of volume": ("d4767", rows("specimens", 0, consolidation=[], t50_min=20.0)),
        "stages of a consolidated specimen": ("d4767", fields(staging="multistage")),
        "cohesion below nothing": (
            "d4767",
            every("specimens", "shear", lambda row: {**row, "force_n": 0.4 * (row["force_n"] or 0.0)}),
        ),
    },
    "water_content": {
        "masses_obey_physics": ("oven_110", rows("weighings", 0, mass_dry_g=float("nan"))),
        "dry above wet": ("oven_110", rows("weighings", 0, mass_dry_g=900.0)),
        "mass_constant": ("oven_105", heavier_last),
        "dried_long_enough": ("oven_110", weighed_at_once),
        "no_fog_on_the_mirror": ("direct_heat", rows("weighings", -1, mirror="fogged")),
        "specimen_large_enough": ("oven_110", fields(largest_particle_mm=37.5)),
        "metal in a microwave": ("microwave", fields(tin_is="metal")),
        "more water than a soil has": ("oven_110", rows("weighings", 0, mass_dry_g=30.0)),
        "weighed twice at once": ("oven_105", weighed_twice_at_once),
        "temperature_within_band": ("oven_110", fields(oven_temperature_c=130)),
        "soil_suits_the_heat": ("oven_110", fields(gypsum_or_organic="yes")),
        "tare_agrees": ("oven_110", fields(mass_tin_register_g=10.0)),
        "balance_fine_enough": ("oven_110", fields(balance_readability_g=1.0)),
        "weighed_fresh": ("oven_110", late),
        "cooled_before_weighing": ("oven_110", fields(cooled_min=1)),
        "balance_in_date": ("oven_110", fields(balance_in_date="no")),
    },
    "liquid_limit": {
        "a line of the wrong slope": ("four_bands", rising_line),
        "points together": ("four_bands", close_together),
        "falls that differ": ("cone_80g", falls_apart),
        "more drops than anybody counts": ("four_bands", rows("trials", 0, blows=240)),
        "seasoned for a minute": ("four_bands", seasoned_for_a_minute),
        "preparation": ("four_bands", fields(soil_state=None)),
        "share below 0.425 mm": ("four_bands", fields(finer_than_425um_percent=None)),
        "an inspection that was not passed": ("four_bands", fields(device_passed="no")),
        "a tin twice": ("four_bands", a_tin_twice("trials")),
        "a tare of another tin": ("four_bands", rows("trials", 0, mass_tin_register_g=99.0)),
        "masses_obey_physics": ("four_bands", rows("trials", 0, mass_dry_g=-3.0)),
        "readings_possible": ("four_bands", rows("trials", 1, water_added_ml=-2.0)),
        "soil_has_a_limit": ("four_bands", fields(cannot_be_found="yes")),
        "device_in_date": ("four_bands", fields(device_due_on="2025-01-01")),
        "drop_height_right": ("four_bands", fields(device_drop_mm=10.5)),
        "every_band_filled": ("four_bands", rows("trials", 0, excluded_because="groove tore")),
        "target_is_between": ("four_bands", all_blows_above),
        "both_closures_agree": ("one_point_verified", rows("trials", 0, blows=28, verification_blows=22)),
        "points_on_the_line": ("four_bands", rows("trials", 1, mass_wet_g=37.5)),
        "trials_agree": ("three_replicates", rows("trials", 1, blows=15)),
        "closures_within_range": ("four_bands", rows("trials", 0, blows=44)),
        "estimates_agree": ("four_bands", fields(dry_soil_g=150.0)),
        "above_the_plastic_limit": ("four_bands", fields(plastic_limit_percent=150.0)),
        "balance_in_date": ("four_bands", fields(balance_in_date="no")),
    },
    "unconfined_compression": {"a tare of another tin": ("d2166", fields(mass_tin_register_g=99.0))},
    "plastic_limit": {
        "a tin twice": ("astm", a_tin_twice("determinations")),
        "a tare of another tin": ("astm", rows("determinations", 0, mass_tin_register_g=99.0)),
        "masses_obey_physics": ("astm", rows("determinations", 0, mass_dry_g=99.0)),
        "percentages_possible": ("astm", fields(finer_than_2um_percent=120)),
        "balance_in_date": ("astm", fields(balance_in_date="no")),
        "soil_is_plastic": ("astm", just_below_the_plastic_limit),
        "a slip of the point": ("astm", fields(liquid_limit_percent=4.45)),
        "determinations_agree": ("astm", rows("determinations", 0, mass_wet_g=31.5)),
        "below_the_u_line": ("astm", fields(liquid_limit_percent=900.0)),
        "flows once disturbed": ("astm", fields(natural_water_content_percent=180.0)),
        "stones beside": ("astm", fields(finer_than_425um_percent=None)),
        "preparation": ("astm", fields(soil_state=None)),
        "enough_threads": ("astm", rows("determinations", 1, mass_tin_g=30.0, mass_wet_g=31.0, mass_dry_g=30.8)),
    },
    "sieve": {
        "readings_possible": ("astm_soil", rows("sieves", 2, mass_retained_g=-4.0)),
        "sum_of_parts": ("astm_soil", fields(mass_pan_g=40.0)),
        "sieve_not_overloaded": ("astm_soil", rows("sieves", 9, mass_retained_g=900.0)),
        "an aperture that is not made": ("astm_soil", rows("sieves", 6, aperture_mm=47.5)),
        "an aperture that stands twice": ("astm_soil", rows("sieves", 7, aperture_mm=0.85)),
        "dry or moist": ("astm_soil", fields(weighed_as=None)),
        "the split": ("astm_soil", fields(split_at_mm=4.75, mass_coarse_g=20.0, mass_finer_g=300.0)),
        "passing_falls": ("astm_soil", rows("sieves", 5, mass_retained_g=-20.0)),
        "soil_enough": ("astm_soil", fields(largest_particle_mm=37.5)),
        "sieves_sound": ("astm_soil", rows("sieves", 5, sieve_state="blinded")),
        "shaken_to_the_end": ("astm_soil", fields(further_minute_g=60.0)),
        "within_the_envelope": ("astm_soil", rows("envelope", 0, most_percent=0.5)),
        "balance_in_date": ("astm_soil", fields(balance_in_date="no")),
    },
    "hydrometer": {
        "readings_possible": ("teaching", rows("readings", 1, temperature_c=80.0)),
        "before time zero": ("teaching", rows("readings", 0, elapsed_min=-3.0)),
        "more with time": ("teaching", risen),
        "below nothing": ("teaching", rows("readings", 2, reading_g_l=-8.0, reading_sg=0.99)),
        "a blank of the wrong sign": ("teaching", rows("blanks", 0, reading_g_l=-3.0, reading_sg=0.995)),
        "a typed time": ("teaching", rows("readings", 2, elapsed_min=40.0)),
        "no meniscus": ("iso", fields(meniscus_g_l=None, meniscus_sg=None)),
        "share not known": ("teaching", fields(passing_percent=None)),
        "gravity of lead": ("teaching", fields(specific_gravity_ratio=3.4)),
        "soaked for an hour": ("teaching", soaked_for_an_hour),
        "mass after": ("teaching", fields(mass_after_g=40.0)),
        "pre-treated": ("teaching", fields(pretreated_for="carbonates")),
        "finer_is_possible": ("teaching", fields(mass_dry_g=20.0)),
        "on_time": ("teaching", late_reading),
        "none_passed_over": ("teaching", passed_over),
        "put_in_in_time": ("teaching", put_in_late),
        "temperature_steady": ("teaching", rows("readings", 6, temperature_c=14.0)),
        "blanks_span_the_test": ("teaching", rows("readings", 6, temperature_c=24.0)),
        "gravity_measured": ("teaching", fields(specific_gravity_from="assumed")),
        "solution_fresh": ("teaching", six_weeks_old),
        "mass_suits": ("teaching", fields(mass_dry_g=12.0)),
        "balance_in_date": ("teaching", fields(balance_in_date="no")),
    },
    "specific_gravity": {
        "masses_obey_physics": ("astm", rows("determinations", 0, mass_with_soil_g=400.0)),
        "determinations_agree": ("astm", rows("determinations", 0, mass_dry_soil_g=62.0)),
        "gravity_usual": (
            "astm",
            lambda r: {
                "determinations": [{**d, "mass_dry_soil_g": d["mass_dry_soil_g"] * 0.92} for d in r["determinations"]]
            },
        ),
        "gas that gains pressure": ("gas", rows("determinations", 0, gas_second_kpa=160.0)),
        "a chamber of another instrument": ("gas", rows("determinations", 0, expansion_cm3=400.0)),
        "air_drawn_long_enough": ("astm", fields(deaired_by="boiling", deaired_min=3)),
        "near_the_calibration": ("astm", rows("determinations", 0, temperature_c=33.0)),
        "balance_in_date": ("astm", fields(balance_in_date="no")),
    },
    "ring_density": {
        "a narrow ring": ("full_ring", fields(ring_diameter_mm=50.0)),
        "a particle density that was assumed": ("headspace", fields(particle_density_from="assumed")),
        "a tare of another tin": ("headspace", fields(mass_tin_register_g=99.0)),
        "readings_possible": ("headspace", fields(ring_diameter_mm=0)),
        "tin upside down": ("headspace", fields(mass_dry_g=900.0)),
        "beyond the ring": ("headspace", rows("headspaces", 0, headspace_mm=90.0)),
        "bag below its mass": ("headspace", fields(mass_with_soil_g=5.0)),
        "ring_driven_straight": ("headspace", askew),
        "core_not_shortened": ("headspace", fields(outside_headspace_mm=-4.0)),
        "subsample_large_enough": (
            "headspace",
            lambda r: {"mass_wet_g": r["mass_tin_g"] + 12, "mass_dry_g": r["mass_tin_g"] + 10},
        ),
        "density_as_ground_has_it": ("headspace", fields(mass_with_soil_g=900.0)),
        "saturation_below_full": ("headspace", hardly_denser_than_dry),
        "weighed_fresh": ("headspace", lambda r: {"sealed": "no", "weighed_at": r["sampled_at"] + timedelta(hours=50)}),
        "balance_in_date": ("headspace", fields(balance_in_date="no")),
    },
    "pit_density": {
        "dry above moist": ("fine_earth", fields(mass_fines_g=9900.0)),
        "a small tin": ("sand", fields(largest_particle_mm=50.0)),
        "sand of last year": ("sand", fields(sand_calibrated_on="2025-01-05", tested_on="2026-01-05")),
        "sand used again": ("sand", fields(sand_state="re-used", sand_state_then="new")),
        "fuller than full": ("sand", hole_hardly_denser_than_dry),
        "a job's rule missed": ("sand", fields(reference_density_mg_m3=2.6, required_percent=98.0)),
        "a gauge that disagrees": ("sand", fields(gauge_density_mg_m3=0.9)),
        "a tare of another tin": ("sand", fields(mass_tin_register_g=99.0)),
        "readings_possible": ("sand", fields(mass_sand_after_g=9400.0)),
        "tin upside down": ("sand", fields(mass_dry_g=900.0)),
        "stones_fit_the_hole": ("sand", fields(mass_coarse_g=90000.0)),
        "few_enough_stones": ("sand", fields(mass_coarse_g=2600.0)),
        "nothing_lost_on_the_way": ("sand", torn_bag),
        "solids_below_the_moist_mass": ("sand", fields(mass_soil_field_g=500.0)),
        "hole_large_enough": ("sand", fields(mass_sand_after_g=7000.0)),
        "density_as_ground_has_it": ("sand", fields(mass_soil_field_g=9900.0)),
        "balance_in_date": ("sand", fields(balance_in_date="no")),
    },
    "compaction": {
        "too full at the optimum": ("standard_944", fields(specific_gravity_ratio=2.3)),
        "a point with other blows": ("standard_944", rows("points", 1, blows=40)),
        "water runs from the base": ("standard_944", fields(free_draining="yes")),
        "a tin twice": ("standard_944", a_tin_twice("points")),
        "a tare of another tin": ("standard_944", rows("points", 0, mass_tin_register_g=99.0)),
        "masses_obey_physics": ("standard_944", rows("points", 0, mass_with_soil_g=4000.0)),
        "tin upside down": ("standard_944", rows("points", 0, mass_dry_g=900.0)),
        "curve_has_a_top": ("standard_944", upward),
        "points_on_both_sides": ("standard_944", only_dry),
        "peak_within_the_points": ("standard_944", always_denser),
        "left_of_zero_air": ("standard_944", fields(specific_gravity_ratio=2.0)),
        "gravity_measured": ("standard_944", fields(specific_gravity_from="assumed")),
        "mould_is_the_schools": ("standard_944", fields(mould_volume_cm3=1000.0)),
        "few_enough_stones": ("standard_944", fields(oversize_percent=45.0)),
        "estimates_agree": ("standard_944", rows("points", 1, water_added_ml=20.0)),
        "balance_in_date": ("standard_944", fields(balance_in_date="no")),
    },
    "cbr": {
        "a surcharge too light": ("astm_standard", fields(surcharge_kg=2.0)),
        "a height not measured": ("bs_light", fields(specimen_height_mm=None)),
        "stones replaced in BS": ("bs_light", fields(oversize_replaced="replaced")),
        "sixty newtons": ("astm_standard", fields(top_seating_n=60.0)),
        "a tin twice": ("bs_light", a_tin_twice("tins")),
        "a tare of another tin": ("bs_light", rows("tins", 0, mass_tin_register_g=99.0)),
        "masses_obey_physics": ("bs_light", fields(mass_with_soil_g=8000.0)),
        "tin upside down": ("bs_light", rows("tins", 0, mass_dry_g=900.0)),
        "few_stones_screened_out": ("bs_light", fields(oversize_percent=40.0)),
        "near_the_optimum": ("bs_light", fields(optimum_water_percent=18.0)),
        "dense_as_wanted": ("bs_light", fields(target_percent=102.0)),
        "soaked_long_enough": (
            "bs_light",
            lambda r: {"soak_ended_at": r["soak_started_at"] + timedelta(days=2)},
        ),
        "swells_little": ("bs_light", rows("swell", 3, gauge_mm=9.0)),
        "ends_agree": ("bs_light", lambda r: {"bottom": [{**b, "ring_div": 1.8 * b["ring_div"]} for b in r["bottom"]]}),
        **pushes("bs_light", "astm_standard", {"top_zero_mm": 1.0}, "top_seating_n"),
    },
    "field_cbr": {
        "a tin twice": ("bs_in_place", a_second_tin),
        "a tare of another tin": ("bs_in_place", rows("tins", 0, mass_tin_register_g=99.0)),
        "masses_obey_physics": ("bs_in_place", fields(axle_kn=-3.0)),
        "tin upside down": ("bs_in_place", rows("tins", 0, mass_dry_g=900.0)),
        "reaction_enough": ("bs_in_place", fields(axle_kn=1.0)),
        "springs_raised": ("bs_in_place", fields(springs="still bear")),
        "datum_far_enough": ("bs_in_place", fields(datum_legs_mm=400.0)),
        "reaction_held": ("bs_in_place", lifted),
        "ring_back_at_zero": ("bs_in_place", fields(ring_after_div=9.0)),
        **pushes("bs_in_place", "astm_in_place", {"zero_mm": 1.0}, "seating_n"),
    },
}
