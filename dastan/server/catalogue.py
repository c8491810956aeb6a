"""A model's catalogue: what a person can put into an analysis."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.captions import hierarchy_caption, level_caption
from dastan.core.analysis.prompts import prompts_named
from dastan.core.model.conditions import Prompt
from dastan.core.model.document import Assumption, Dimension, SemanticModel
from dastan.core.model.reach import shown_hierarchies
from dastan.sources.folders.check import Note


@dataclass(frozen=True, slots=True)
class CatalogueMeasure:
    name: str
    caption: str
    unit: str
    description: str
    synonyms: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MeasureFolder:
    caption: str
    measures: tuple[CatalogueMeasure, ...]


@dataclass(frozen=True, slots=True)
class CatalogueLevel:
    name: str
    caption: str


@dataclass(frozen=True, slots=True)
class CatalogueHierarchy:
    name: str
    caption: str
    levels: tuple[CatalogueLevel, ...]


@dataclass(frozen=True, slots=True)
class CatalogueAttribute:
    """What a condition can compare."""

    name: str
    caption: str


@dataclass(frozen=True, slots=True)
class CatalogueDimension:
    """`day` is the attribute that holds the days of a calendar; none of any other dimension. `has_key`: records point
    at it by a key, which may be left blank or unknown."""

    name: str
    caption: str
    description: str
    synonyms: tuple[str, ...]
    hierarchies: tuple[CatalogueHierarchy, ...]
    attributes: tuple[CatalogueAttribute, ...]
    has_key: bool
    day: str | None


@dataclass(frozen=True, slots=True)
class CatalogueFilter:
    """A ready-made filter, with the questions whose answers it takes."""

    name: str
    caption: str
    description: str
    prompts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class CatalogueJoint:
    """A joint member of the model, which an analysis can take in: of which dimension, and what it is of."""

    name: str
    caption: str
    dimension: str
    says: str


@dataclass(frozen=True, slots=True)
class Catalogue:
    """`notes` tell what was noticed about the data: how many records belong nowhere; `assumed` what nobody has yet
    confirmed, of a model that was proposed from its files."""

    name: str
    caption: str
    description: str
    folders: tuple[MeasureFolder, ...]
    dimensions: tuple[CatalogueDimension, ...]
    filters: tuple[CatalogueFilter, ...]
    prompts: tuple[Prompt, ...]
    joints: tuple[CatalogueJoint, ...]
    notes: tuple[str, ...]
    assumed: tuple[Assumption, ...]
    is_own: bool
    """Whether the person brought it."""
    may_shape: bool
    """Whether the person may change the model."""


def catalogue_of(
    model: SemanticModel,
    notes: tuple[Note, ...],
    joints: tuple[CatalogueJoint, ...] = (),
    assumed: tuple[Assumption, ...] = (),
    is_own: bool = False,
    may_shape: bool = False,
) -> Catalogue:
    """Measures in their folders, in document order, and the dimensions that can be shown; and what was noticed."""
    folders: dict[str, list[CatalogueMeasure]] = {}
    for each in model.measures:
        measure = CatalogueMeasure(each.name, each.caption, each.unit, each.description, each.synonyms)
        folders.setdefault(each.folder, []).append(measure)
    dimensions = []
    for dimension in model.dimensions:
        hierarchies = tuple(
            CatalogueHierarchy(
                hierarchy.name,
                hierarchy_caption(dimension, hierarchy),
                tuple(CatalogueLevel(level, level_caption(dimension, level)) for level in hierarchy.levels),
            )
            for hierarchy in shown_hierarchies(dimension)
        )
        if hierarchies:
            attributes = tuple(
                CatalogueAttribute(each.name, level_caption(dimension, each.name)) for each in dimension.attributes
            )
            entry = CatalogueDimension(
                dimension.name, dimension.caption, dimension.description, dimension.synonyms, hierarchies,
                attributes, dimension.key is not None, _day(dimension, model),
            )  # fmt: skip
            dimensions.append(entry)
    return Catalogue(
        model.name,
        model.caption,
        model.description,
        tuple(MeasureFolder(caption, tuple(measures)) for caption, measures in folders.items()),
        tuple(dimensions),
        tuple(
            CatalogueFilter(
                each.name, each.caption, each.description, tuple(dict.fromkeys(prompts_named(each.condition, model)))
            )
            for each in model.filters
        ),
        model.prompts,
        joints,
        tuple(str(each) for each in notes),
        assumed,
        is_own,
        may_shape,
    )


def _day(dimension: Dimension, model: SemanticModel) -> str | None:
    """The attribute that holds a calendar's days."""
    is_calendar = dimension.name in {each.time for each in model.measures}
    table = model.tables.get(dimension.table) if dimension.table is not None else None
    if dimension.key is None or not (is_calendar or (table is not None and table.calendar is not None)):
        return None
    return next((each.name for each in dimension.attributes if each.key == dimension.key), None)
