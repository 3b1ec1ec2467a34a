"""A picture that would show one lonely point is not drawn: neither at the desk nor on paper."""

import pytest

from vadum.figures.register import figure
from vadum.figures.theme import Figure
from vadum.soil.contract.outcome import Outcome
from vadum.soil.register import METHODS

BARE = Outcome(method="any", school="any")


def outcome_of(picture: Figure, rows: int) -> Outcome:
    series, columns = next(iter(picture.columns.items()))
    row = {name: 1.0 for name, _ in columns}
    return BARE.model_copy(update={"series": {series: tuple(dict(row) for _ in range(rows))}})


@pytest.mark.parametrize("name", [n for n in METHODS if figure(n).least])
def test_it_is_drawn_from_the_rows_it_asks_for_on(name):
    picture = figure(name)
    assert not picture.worth_drawing(outcome_of(picture, 0))
    assert not picture.worth_drawing(outcome_of(picture, picture.least - 1))
    assert picture.worth_drawing(outcome_of(picture, picture.least))
    (school, *_) = METHODS[name].schools.values()
    assert picture.spec(school)["usermeta"]["words"].startswith("The picture is drawn from the second ")


def test_the_others_are_drawn_empty_too():
    assert any(figure(n).least for n in METHODS)
    others = [figure(n) for n in METHODS if not figure(n).least]
    assert all(one.worth_drawing(BARE) for one in others)
