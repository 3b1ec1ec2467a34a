"""Instruction and field of the moment are in sight together, on a desk's screen and on a phone, for every method."""

import pytest

from vadum.tape import runs

# What is asked for now, or the keys that count it, between the top of the window and the keys at its foot.
SEEN = """() => {
    const pad = document.getElementById('pad'), places = document.querySelector('.places');
    const foot = [pad, innerWidth < 600 && places].filter((one) => one && one.offsetParent !== null && !one.hidden);
    const bottom = Math.min(innerHeight, ...foot.map((one) => one.getBoundingClientRect().top).filter((y) => y > 200));
    const box = (one) => one.getBoundingClientRect();
    const inside = (one) => box(one).top >= 0 && box(one).bottom <= bottom + 2;
    const counts = [...document.querySelectorAll('[data-turn-go]')].filter((one) => one.offsetParent);
    const asked = [document.activeElement, ...counts].some((one) => one !== document.body && inside(one));
    const told = document.querySelector('[data-fragment="advice"] .t, [data-fragment="advice"] p');
    return { asked, told: Boolean(told) && inside(told), done: Boolean(document.activeElement.dataset.sign) };
}"""


@pytest.mark.parametrize("width", [1280, 390])
def test_what_to_do_and_where_to_write_it_are_in_sight_together(app, opened, width):
    with app.database.reading() as session:
        listed = runs.listed(session, "open", size=200)
    one_each = {run.method: run.code for run in listed}
    page = opened(app, "IM", width=width, height=800)
    hidden = []
    for method, code in one_each.items():
        page.goto(f"{app.address}/runs/{code}")
        page.wait_for_function("document.querySelector('#desk') && document.activeElement !== document.body")
        page.wait_for_timeout(100)
        seen = page.evaluate(SEEN)
        if not seen["asked"] or not (seen["told"] or seen["done"]):
            hidden.append((method, code, seen))
    assert hidden == []
    assert len(one_each) > 15
