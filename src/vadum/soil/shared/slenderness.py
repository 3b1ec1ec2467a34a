"""Height to diameter of a specimen, judged as a nominal shape."""

from vadum.soil.contract.rules import Seen, within


def slender(ratio: float | None, least: float, most: float, decimals: int) -> Seen | None:
    """The ratio against its band, to so many decimals.

    A cutter and a mitre box of the nominal ratio make half of all specimens a hair too short, and the standards say
    "about 2": the ratio is judged as it is reported.

    Parameters: `ratio` height over diameter; `least` and `most` of the procedure; `decimals` of the judgement.
    Returns: what was seen; None without a ratio.
    Source: a laboratory setting, of nominal shapes in ASTM D2166 and D4767.

    >>> slender(1.9991, 2.0, 2.5, 1).held, slender(1.93, 2.0, 2.5, 1).held
    (True, False)
    """
    return within(None if ratio is None else round(ratio, decimals), (least, most), digits=3)
