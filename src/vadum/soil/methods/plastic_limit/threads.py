"""Which determinations count, and whether the soil is nonplastic."""

from vadum.soil.contract.fields import known
from vadum.soil.contract.numerics import mean, plain
from vadum.soil.methods.plastic_limit.record import Record
from vadum.soil.shared.water_by_tin import measured_percent


def counting(record: Record) -> list[tuple[int, float]]:
    """Row and water content, percent, of each determination that is dry, possible and not left out."""
    rows = []
    for i, row in enumerate(record.determinations):
        content = measured_percent(row)
        if content is not None and not row.excluded_because:
            rows.append((i, content))
    return rows


def nonplastic_because(record: Record) -> str:
    """Why the soil is nonplastic, or an empty text. Source: ASTM D4318, AASHTO T 90."""
    if record.cannot_be_rolled == "yes":
        return "threads cannot be rolled at any water content"
    if record.liquid_limit_unobtainable == "yes":
        return "the liquid limit cannot be found"
    found = counting(record)
    if found and known(record.liquid_limit_percent):
        limit = mean([content for _, content in found])
        if limit >= record.liquid_limit_percent:
            return f"plastic limit {plain(limit, 3)} ≥ liquid limit {plain(record.liquid_limit_percent, 3)} %"
    return ""
