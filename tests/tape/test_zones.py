"""The laboratory's clocks: each moment by the offset of its own day, true lengths, the hour that comes twice."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from vadum.soil.contract.errors import FieldError
from vadum.soil.contract.times import clock, local, minutes_between
from vadum.tape.clock import Clock, FrozenClock, in_zone, machine_zone, read_by_the_clock, zone_named, zone_names
from vadum.tape.typed_moments import with_offsets

# Clocks are changed by an hour, and on one island by half of one.
SHIFTS = [timedelta(minutes=m) for m in (-60, -30, 30, 60)]
BERLIN = ZoneInfo("Europe/Berlin")
ZONES = ("Europe/Berlin", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "Africa/Casablanca", "UTC")
WINTER = in_zone(datetime(2026, 12, 3, 9, 0, tzinfo=UTC), BERLIN)


def test_a_reading_of_may_printed_in_december_stands_at_its_own_hour():
    may = datetime(2026, 5, 12, 8, 21, tzinfo=UTC)
    assert f"{local(may, WINTER):%H:%M}" == "10:21"
    assert clock(may, WINTER) == "12 May 10:21"


def test_what_is_worked_out_from_now_is_shown_by_the_clocks_of_its_own_day():
    evening = in_zone(datetime(2026, 10, 24, 20, 0, tzinfo=UTC), BERLIN)
    ready = evening + timedelta(hours=12)
    assert minutes_between(evening, ready) == 720
    assert clock(ready, evening) == "tomorrow 09:00", "22:00 and twelve hours, over the night that is an hour longer"


@pytest.mark.parametrize("zone", ZONES)
def test_lengths_of_time_are_true_over_every_change_of_the_year(zone):
    place = ZoneInfo(zone)
    start = in_zone(datetime(2026, 1, 1, tzinfo=UTC), place)
    at = start
    for day in range(1, 366):
        later = in_zone(datetime(2026, 1, 1, tzinfo=UTC) + timedelta(days=day), place)
        assert later - start == timedelta(days=day)
        assert later - at == timedelta(days=1)
        at = later


@pytest.mark.parametrize("zone", ZONES)
def test_a_face_is_read_back_as_the_moment_it_was_unless_it_came_twice(zone):
    place = ZoneInfo(zone)
    now = in_zone(datetime(2026, 7, 1, tzinfo=UTC), place)
    for hour in range(0, 365 * 24, 7):
        at = in_zone(datetime(2026, 1, 1, 0, 15, tzinfo=UTC) + timedelta(hours=hour), place)
        face = at.replace(tzinfo=None)
        twin = [in_zone(at + shift, place).replace(tzinfo=None) for shift in SHIFTS]
        if face in twin:
            with pytest.raises(ValueError, match="came twice"):
                read_by_the_clock(face, now)
        else:
            assert read_by_the_clock(face, now) == at


@pytest.mark.parametrize(
    ("face", "says"),
    [
        ("2026-10-25T02:30", "came twice that night: write 02:30+02:00 for the first, 02:30+01:00 for the second"),
        ("2026-03-29T02:30", "never came"),
    ],
)
def test_the_hour_that_comes_twice_or_never_is_asked_back(face, says):
    with pytest.raises(ValueError, match=says.replace("+", r"\+")):
        read_by_the_clock(datetime.fromisoformat(face), WINTER)


def test_a_run_over_the_change_of_clocks_keeps_true_times(lab):
    lab.clock = FrozenClock(in_zone(datetime(2026, 10, 24, 22, 0, tzinfo=UTC), BERLIN))
    code = lab.start("water_content")
    lab.post(code, "tin", "12")
    lab.post(code, "mass_wet_g", "61.2")
    lab.clock.step(hours=1)
    with pytest.raises(FieldError) as refused:
        lab.post(code, "in_oven_at", "2026-10-25T02:30")
    assert refused.value.field == "in_oven_at"
    lab.clock.step(hours=2)
    lab.post(code, "in_oven_at", "2026-10-25T02:30+01:00")
    lab.clock.step(hours=12)
    record = lab.read(code).folded.record
    assert lab.clock.now() - record.in_oven_at == timedelta(hours=11, minutes=30)
    assert f"{lab.clock.now():%H:%M %z}" == "14:00 +0100"


def test_a_time_typed_without_an_offset_is_the_laboratorys(lab):
    lab.clock = FrozenClock(in_zone(datetime(2026, 5, 12, 8, 0, tzinfo=UTC), ZoneInfo("Asia/Kathmandu")))
    code = lab.start("water_content")
    assert lab.post(code, "in_oven_at", "2026-05-12T10:00").value == "2026-05-12T10:00:00+05:45"
    assert lab.post(code, "remarks", "2026-05-12T10:00").value == "2026-05-12T10:00", "a text is a text"


def test_what_is_no_time_is_left_to_its_field(lab):
    record = lab.read(lab.start("water_content")).method.Record
    for value in ("half past ten", "", "2026-13-40T10:00", 7, None, {"no": "row"}):
        assert with_offsets(record, "in_oven_at", value, WINTER) == value


def test_zones_are_the_machines_or_named(monkeypatch):
    monkeypatch.setenv("TZ", "Asia/Kathmandu")
    assert machine_zone().key == "Asia/Kathmandu"
    assert Clock().now().utcoffset() == timedelta(hours=5, minutes=45)
    monkeypatch.setenv("TZ", "nowhere")
    assert machine_zone().key != "nowhere"
    assert "Europe/Lisbon" in zone_names()
    assert zone_named("UTC").key == "UTC"
    for wrong in ("Europe/Atlantis", "", "../etc/passwd", "CET-1"):
        with pytest.raises(FieldError):
            zone_named(wrong)
