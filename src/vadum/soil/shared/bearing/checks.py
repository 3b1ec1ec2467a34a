"""The rules that judge a push of the plunger, in their order; both methods run them."""

from vadum.soil.shared.bearing import curve_checks, push_checks

SHARED = (
    push_checks.readings_can_be,
    push_checks.ring_within_its_calibration,
    push_checks.ring_at_zero_as_seated,
    curve_checks.seating_of_its_class,
    push_checks.rate_within_band,
    push_checks.readings_not_missed,
    curve_checks.force_never_falls,
    curve_checks.correction_small,
    curve_checks.zero_drawn_as_computed,
    curve_checks.bends_over,
    curve_checks.reached_the_second,
    curve_checks.second_not_higher,
    push_checks.nothing_happened,
    push_checks.no_stone_under,
    push_checks.apparatus_in_date,
)
