"""What a changed model does to saved analyses, and to what the people of a role see."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import pytest

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.following import Effect, effect_on, renames_of
from dastan.core.errors import InputError
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.differences import differences, touched
from dastan.core.model.document import Attribute, Hierarchy, Role, SemanticModel
from dastan.core.model.gestures import (
    DescribeDimension,
    LeaveOutMeasure,
    MakeCalendar,
    PutAttribute,
    PutHierarchy,
    PutMeasure,
    PutReadyMade,
    PutRole,
    Tie,
    Untie,
    apply_to_model,
)
from dastan.core.model.named import named_in, with_renames
from dastan.documents.read import ANALYSIS, read_model
from tests.core.model.gestures.test_model_gestures import TEXT

MODEL = read_model(TEXT)


def asked(*measures: str, **more: object) -> Analysis:
    question = {
        "measures": [{"measure": each} for each in measures],
        "rows": [{"dimension": "line", "hierarchy": "line", "level": "mode"}],
        **more,
    }
    return ANALYSIS.validate_python({"dastan": "analysis/1", "model": "depots", "question": question})


def effect(document: Analysis, after: SemanticModel, before: SemanticModel = MODEL) -> Effect | None:
    return effect_on(document, before, after, differences(before, after), touched(before, after))


READY = asked("taps", filters=[{"kind": "ready", "name": "trams"}])


def test_what_is_called_ordered_or_added_otherwise_leaves_numbers_alone() -> None:
    for gesture in (
        DescribeDimension(name="line", caption="Route", default=(("tram",),)),
        PutMeasure(measure=replace(MODEL.measure("taps"), caption="Boardings", format="0.0")),
        PutAttribute(dimension="line", attribute=Attribute(name="zone", caption="Zone", key="zone")),
        PutAttribute(
            dimension="line", attribute=Attribute(name="mode", caption="Kind", key="mode", sort_column="order")
        ),
        PutHierarchy(dimension="line", hierarchy=Hierarchy(name="modes", levels=("mode",))),
        LeaveOutMeasure(name="paid"),
    ):
        assert effect(READY, apply_to_model(MODEL, gesture)) is None, gesture


def test_what_numbers_depend_on_is_told_through_all_that_is_made_of_it() -> None:
    trams = MODEL.filters[0].condition
    assert isinstance(trams, MemberFilter)
    ferries = replace(trams, members=(("ferry",),))
    other = apply_to_model(MODEL, PutReadyMade(filter=replace(MODEL.filters[0], condition=ferries)))
    assert effect(READY, other) == Effect("changes", ("Trams",))
    assert effect(asked("taps"), other) is None
    # A ratio by what it is divided by.
    summed = apply_to_model(MODEL, PutMeasure(measure=replace(MODEL.measure("cards"), aggregate="count_values")))
    assert effect(asked("per_card"), summed) == Effect("changes", ("Taps by card",))
    # The filter's members are of the dimension too.
    rekeyed = effect(
        READY, apply_to_model(MODEL, PutAttribute(dimension="line", attribute=Attribute(name="mode", key="kind")))
    )
    assert rekeyed is not None
    assert (rekeyed.kind, set(rekeyed.words)) == ("changes", {"Trams", "Line"})
    tied = apply_to_model(
        MODEL, Tie(from_table="taps", from_column="route", to_table="lines", to_column="code", role="route")
    )
    assert effect(asked("taps"), tied) == Effect("changes", ("Line",))


def renamed(model: SemanticModel) -> SemanticModel:
    """Taps, the line and the filter under other names."""
    text = TEXT.replace("name: taps, caption", "name: boardings, caption").replace(
        "numerator: taps", "numerator: boardings"
    )
    text = text.replace("- name: line\n    caption: Line", "- name: route\n    caption: Line").replace(
        "dimension: line", "dimension: route"
    )
    return read_model(text.replace("name: trams, caption", "name: by_tram, caption"))


def test_an_analysis_follows_new_names_wherever_it_names_something() -> None:
    after = renamed(MODEL)
    found = differences(MODEL, after)
    renames = renames_of(found)
    assert renames == {("measure", "taps"): "boardings", ("dimension", "line"): "route", ("filter", "trams"): "by_tram"}
    # The ratio and the filter name others now, and are what they were.
    assert {each.what for each in found} == {"renamed"}
    followed = with_renames(READY, renames)
    assert set(named_in(followed)) == {("measure", "boardings"), ("dimension", "route"), ("filter", "by_tram")}
    assert with_renames(asked("paid", rows=[]), renames) == asked("paid", rows=[])
    assert effect(READY, after) == Effect("follows", ("boardings", "route", "by_tram"))


def test_new_names_hide_no_loss() -> None:
    text = TEXT.replace("name: taps, caption", "name: boardings, caption").replace(
        "numerator: taps", "numerator: boardings"
    )
    after = apply_to_model(read_model(text), LeaveOutMeasure(name="paid"))
    found = effect(asked("taps", "paid"), after)
    assert found is not None
    assert found.kind == "breaks"
    assert "paid" in found.words[0]
    assert effect(asked("taps"), after) == Effect("follows", ("boardings",))


def with_role(elsewhere: Literal["nothing", "everything"]) -> SemanticModel:
    desk = Role(name="trams", caption="the tram desk", conditions=(MODEL.filters[0].condition,), elsewhere=elsewhere)
    return apply_to_model(MODEL, PutRole(role=desk))


def test_no_step_lets_the_people_of_a_role_see_more() -> None:
    wide, narrow = with_role("everything"), with_role("nothing")
    for gesture in (
        Untie(table="taps", role="line"),
        # Two ways to a line: which of them is meant nobody says.
        Tie(from_table="taps", from_column="route", to_table="lines", to_column="line_id", role="route"),
    ):
        with pytest.raises(InputError, match="the tram desk” would see all of Taps"):
            apply_to_model(wide, gesture)
        # What a role does not reach is hidden: it can only hold back more.
        assert apply_to_model(narrow, gesture).roles == narrow.roles
    assert apply_to_model(wide, MakeCalendar(table="taps", column="billed")).roles == wide.roles
    # In the text it can be done, and is told.
    loose = replace(wide, relationships=wide.relationships[1:])
    assert any("would see all of Taps" in each.words for each in differences(wide, loose))
