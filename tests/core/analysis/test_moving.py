"""What an analysis makes, moved into its model: with what it stands on, once, and then the model's."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import MadeMeasure
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.moving import moved, without_shared
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.document import MemberList, Ranking
from dastan.core.model.gestures import PutMeasure, apply_to_model
from tests.core.analysis.test_made import STAR, formula, made

MODEL = STAR.declared


def test_a_measure_goes_with_those_that_it_is_made_of_first() -> None:
    document = made(("Twice", "boardings * 2"), ("Thrice", '"Twice" + boardings'), ("Other", "taps * 3"))
    twice, thrice, _ = document.made
    gestures = moved(document, MODEL, "measure", thrice.name)
    assert [each.measure.name for each in gestures if isinstance(each, PutMeasure)] == [twice.name, thrice.name]
    model = MODEL
    for each in gestures:
        model = apply_to_model(model, each)
    assert model.measure(thrice.name).formula == thrice.formula
    assert model.measure(thrice.name).unit == MODEL.measure("boardings").unit
    # Moved once, it is the model's: nothing is left to be moved, and the analysis makes the rest alone.
    assert moved(document, model, "measure", thrice.name) == ()
    assert [each.caption for each in without_shared(document, model).made] == ["Other"]
    shown, lost = fitted(document, model)
    assert ([each.caption for each in shown.made], lost) == (["Other"], ())
    assert without_shared(document, MODEL) is document


def test_another_measure_of_the_name_is_not_written_over() -> None:
    document = made(("Twice", "boardings * 2"))
    (gesture,) = moved(document, MODEL, "measure", document.made[0].name)
    model = apply_to_model(MODEL, gesture)
    changed = replace(document, made=(replace(document.made[0], formula=formula("boardings * 4")),))
    with pytest.raises(InputError, match="another measure of the name of “Twice”"):
        moved(changed, model, "measure", document.made[0].name)
    assert without_shared(changed, model) is changed
    with pytest.raises(NotFoundError):
        moved(document, MODEL, "measure", "made_nothing")


def test_a_list_goes_with_the_measure_that_it_ranks_by() -> None:
    document = made(("Twice", "boardings * 2"))
    own: MadeMeasure = document.made[0]
    dimension = MODEL.dimensions[0]
    way = dimension.hierarchies[0]
    largest = MemberList(
        name="largest", caption="The largest", dimension=dimension.name, hierarchy=way.name, level=way.levels[0],
        ranked=Ranking(measure=own.name, amount=2),
    )  # fmt: skip
    document = replace(document, lists=(largest,))
    model = MODEL
    for each in moved(document, MODEL, "list", "largest"):
        model = apply_to_model(model, each)
    assert model.lists == (*MODEL.lists, largest)
    assert model.measure(own.name).formula == own.formula
    assert without_shared(document, model).lists == ()
    other = replace(document, lists=(replace(largest, ranked=Ranking(measure=own.name, amount=3)),))
    with pytest.raises(InputError, match="another list"):
        moved(other, model, "list", "largest")
