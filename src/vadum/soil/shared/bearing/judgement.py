"""What the shared rules of a push have in common: which values they touch, and how an end is named."""

from vadum.soil.shared.bearing.record import BearingRecord, End

SETTING = "laboratory setting"
RATIOS = (
    "bearing_ratio_percent",
    *(f"{e}_{k}_percent" for e in ("top", "bottom") for k in ("first", "second")),
    "first_percent",
    "second_percent",
    "top_percent",
    "bottom_percent",
    "zero_correction_mm",
    "top_zero_correction_mm",
    "bottom_zero_correction_mm",
)


def said(end: End, words: str, record: BearingRecord) -> str:
    return f"{end.words}: {words}" if len(record.ends()) > 1 else words
