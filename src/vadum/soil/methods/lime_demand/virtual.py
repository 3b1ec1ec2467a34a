"""A virtual clay in six bottles: its pH rises with lime towards that of saturated lime."""

import math
import random
from datetime import UTC, date, datetime, timedelta

from vadum.soil.contract.method import Practice, Trial
from vadum.soil.methods.lime_demand.record import LIME_ONLY, SOIL, Bottle, Buffer, Record, Shake
from vadum.soil.methods.lime_demand.school import LimeSchool

MISTAKES = {
    "meter": "a meter set to an old buffer: everything reads low",
    "late": "the bottles read half an hour late",
    "moist": "moist soil weighed as if it were dry",
    "warm": "a bath that was left warm",
}
START = datetime(2026, 1, 5, 10, 0, tzinfo=UTC)
SATURATED_PH = 12.46


def needs_percent(seed: int) -> float:
    """The lime at which the hidden soil comes to 12.40: never near a bottle's own."""
    dice = random.Random(seed * 17 + 5)
    return dice.choice((2.0, 3.0, 4.0)) + dice.uniform(0.33, 0.42)


def ph_of(lime_percent: float, needs: float) -> float:
    """The hidden soil's pH at 25 °C with so much lime; 12.40 at what it needs."""
    rate = math.log((SATURATED_PH - 8.0) / (SATURATED_PH - 12.4)) / needs
    return SATURATED_PH - (SATURATED_PH - 8.0) * math.exp(-rate * lime_percent)


def virtual(seed: int, school: LimeSchool, mistake: str | None = None) -> Trial:
    """A full record of a virtual clay, the lime of its deciding bottle beside it."""
    dice = random.Random(seed * 19 + 3)
    needs = needs_percent(seed)
    truth = next(lime for lime in school.limes_percent if lime >= needs)
    water = round(dice.uniform(4.0, 22.0), 1)
    bath = 30.0 if mistake == "warm" else 24.7
    off = -0.14 if mistake == "meter" else 0.0
    only_ph = min(SATURATED_PH, school.only_ph[1] - 0.02)

    def read(ph25: float) -> float:
        return round(ph25 - school.per_c_ph * (bath - school.bath_c) + off, 2)

    late = 30 if mistake == "late" else 0
    bottles = []
    for place, lime in enumerate((None, *school.limes_percent)):
        at = START + timedelta(minutes=school.stands_min + 1 + 1.8 * place + late)
        soil = school.dry_g * (1.0 if mistake == "moist" else 1 + water / 100)
        bottles.append(
            Bottle(
                holds=LIME_ONLY if lime is None else SOIL,
                lime_percent=lime,
                lime_g=school.only_g if lime is None else round(school.dry_g * lime / 100 + dice.gauss(0, 0.001), 3),
                soil_g=None if lime is None else round(soil, 2),
                read_ph=read(only_ph if lime is None else ph_of(lime, needs)),
                read_at=at,
                temperature_c=bath,
            )
        )
    record = Record(
        soil_state="air-dried",
        sulphate_known="measured",
        sulphate_mg_kg=round(dice.uniform(200, 1500), -1),
        drying="air-dried",
        prepared_g=384.0,
        water_percent=water,
        finer_0425_percent=round(dice.uniform(80, 99), 0),
        organic_percent=0.8,
        plasticity_index_percent=round(dice.uniform(18, 40), 0),
        untreated_ph=round(dice.uniform(7.0, 8.5), 1),
        lime="L1",
        lime_kind="hydrated lime",
        lime_opened_on=date(2025, 12, 12),
        lime_in_date="yes",
        available_cao_percent=70.5,
        label_cao_percent=72.0,
        bottles=tuple(bottles),
        water_ml=school.water_ml,
        water_in_at=START,
        shakes=tuple(Shake(shaken_at=START + timedelta(minutes=10 * i, seconds=20)) for i in range(1, 6)),
        bath_c=bath,
        ph_meter="P1",
        ph_slope_percent=97.5,
        ph_meter_in_date="yes",
        buffers=(
            *(Buffer(part="set to it", buffer_ph=b, buffer_opened_on=date(2026, 1, 2)) for b in school.buffers_ph),
            Buffer(part="check", buffer_ph=12.0, buffer_read_ph=12.01, buffer_opened_on=date(2026, 1, 2)),
        ),
    )
    return Trial(record, {"demand_percent": truth}, {"demand_percent": 0.01}, mistake)


PRACTICE = Practice(
    decides=("sulphate_known", "sulphate_reason", "drying", "lime_kind", "holds", "part", "lime", "ph_meter", "buffer"),
)
