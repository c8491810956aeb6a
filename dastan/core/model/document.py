"""The semantic model document: what the tables mean.

These frozen types are the document's own shape; `dastan.documents` reads YAML into them and publishes
their JSON Schema. Names (`name`) are stable and used by analyses; captions are what people read.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from string import Formatter
from typing import Literal, TypeVar

from dastan.core.model.conditions import Condition, Prompt
from dastan.core.model.expression import Expression
from dastan.core.model.parts import Key, MemberPath, Part

ColumnType = Literal["text", "integer", "decimal", "float", "date", "boolean"]
Aggregate = Literal[
    "sum",
    "count",
    "count_values",
    "distinct",
    "min",
    "max",
    "average",
    "median",
    "percentile",
    "variance",
    "deviation",
    "balance",
    "open",
    "first",
    "last",
    "debit",
    "credit",
    "weighted_average",
    "ratio",
    "formula",
]


_Named = TypeVar(
    "_Named", "Attribute", "Hierarchy", "Dimension", "Measure", "ReadyMade", "MemberList", "ModelJoint", "Prompt",
    "Role",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Column(Part):
    """What is said of a column beyond what its values tell; or how it is worked out from others."""

    type: ColumnType | None = None
    """The type of its values. Left out, it is the one that all of them fit."""
    formula: str | None = None
    """Works it out from other columns of the record, and of tables that it leads to: `case when … then … end`."""
    scale: int | None = None
    """Digits after the point of a decimal; taken from the values when left out."""
    is_key: bool = False
    """Numbers that name something, such as a card's: adding them up says nothing, and is warned of."""
    date_format: str | tuple[str, ...] | None = None
    """How a date is written, as in "%d.%m.%Y", or in which ways; `serial` for a spreadsheet's number of the day. Year
    first, with - or /, needs none."""

    @property
    def day_forms(self) -> tuple[str, ...]:
        """The ways in which a date is written; none where nothing is said."""
        return (self.date_format,) if isinstance(self.date_format, str) else self.date_format or ()


@dataclass(frozen=True, slots=True, kw_only=True)
class GeneratedCalendar(Part):
    """Asks for a table of days, made rather than read."""

    first: str | None = None
    """First day, ISO. Left out, it is the first of January of the earliest date that refers to it."""
    last: str | None = None
    """Last day, ISO, inclusive. Left out, it is the end of the year of the latest date that refers to it."""
    financial_year_starts: int = 1
    """Month (1 to 12) in which the financial year starts; it is named after the year in which it ends."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordList(Part):
    """How the records of a fact are listed when somebody asks what is behind a number."""

    columns: tuple[str, ...] = ()
    """The columns that are shown at first, in this order. Left out, they are all shown."""
    captions: dict[str, str] = field(default_factory=dict)
    """What people call a column."""
    page: str | None = None
    """The address of a record in the system that it came from, "https://…/{incident_id}", columns in braces."""

    def page_columns(self) -> tuple[str, ...]:
        """The columns of which a record's address is made. Raises ValueError where its braces do not close."""
        return tuple(dict.fromkeys(name for _, name, _, _ in Formatter().parse(self.page or "") if name is not None))


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberForm(Part):
    """How the numbers of a CSV file are written. With it, blanks around them, signs of money and per cent, brackets and
    a minus behind are read too; 12 % is the number 12."""

    decimal: Literal[".", ","] = "."
    thousands: Literal["", ".", ",", " ", "'", "\u00a0", "\u202f"] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Table(Part):
    """Rows: one file, all files that match a pattern, or a calendar that is made."""

    file: str | None = None
    calendar: GeneratedCalendar | None = None
    sheet: str | None = None
    """Of a spreadsheet: which of its sheets; of an SQLite file: which of its tables. Left out, it is the first."""
    delimiter: str = ","
    encoding: str = "utf-8"
    header: int = 1
    """Of a CSV file: the line of the column names. What stands above is passed over. 0 where there is none: its columns
    are then called column_1, column_2 and so on."""
    footer: int = 0
    """Of a CSV file: how many lines at its end are no records, such as a total. Blank ones are not counted."""
    blanks: tuple[str, ...] = ()
    """Of a CSV file: what stands for nothing there, such as "n/a", beside an empty value."""
    numbers: NumberForm | None = None
    """Of a CSV file: how its numbers are written. Left out, they have a point and nothing else."""
    columns: dict[str, Column] = field(default_factory=dict)
    records: RecordList = field(default_factory=RecordList)


@dataclass(frozen=True, slots=True, kw_only=True)
class Relationship(Part):
    """Many rows of `from_table` point at one row of `to_table`; `role` tells two such pointers apart."""

    from_table: str
    from_column: str
    to_table: str
    to_column: str
    role: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Attribute(Part):
    """A property by which a dimension's members can be told apart, and so a possible level."""

    name: str
    key: str
    """Column that identifies the member, below its parent."""
    table: str | None = None
    """The table of its columns, where it is not the dimension's own but one that this leads on to."""
    caption: str | None = None
    """What people call the attribute, "Fare family"."""
    caption_column: str | None = None
    """Column with each member's caption; the key itself when left out."""
    sort_column: str | None = None
    """Column that gives the natural order; the key itself when left out."""
    without: str | None = None
    """Caption of the member whose key is blank at this level."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ParentChild(Part):
    """A hierarchy of uneven depth: each row names its parent's key."""

    key: str
    parent: str
    """Column with the key of the row above; blank, or a key that no row has, at the top."""
    caption_column: str | None = None
    sort_column: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedSet(Part):
    """Members under one name, for a list: a path names everything below it."""

    name: str
    caption: str
    hierarchy: str
    """The hierarchy of the same dimension in which the members are found."""
    members: tuple[MemberPath, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyRange(Part):
    """The dimension's rows whose own key lies between two, both included: accounts 5000 to 5999."""

    first: Key
    last: Key


@dataclass(frozen=True, slots=True, kw_only=True)
class LayoutRow(Part):
    """A row of a financial layout: a heading, the records of some members, a formula over other rows, or a blank."""

    name: str
    kind: Literal["heading", "members", "formula", "blank"]
    caption: str = ""
    members: tuple[MemberPath, ...] = ()
    """Of `members`: whose records it has, each once; a path names everything below it."""
    ranges: tuple[KeyRange, ...] = ()
    """Of `members`: by their own keys, so that a new one inside a range belongs to it by itself."""
    formula: Expression | None = None
    """Of `formula`: of which other rows; these are its measures, each by its name."""
    is_turned: bool = False
    """Whether its numbers have the other sign, for formulas over it too."""
    indent: int = 0
    is_strong: bool = False
    rule_above: Literal["none", "single"] = "none"
    rule_below: Literal["none", "single", "double"] = "none"
    format: str | None = None
    """CLDR number pattern. Left out, it is the measure's, or a per cent where rows of one kind are divided."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FinancialLayout(Part):
    """Rows laid out by hand as a statement. No total stands over them."""

    hierarchy: str
    """The hierarchy of the same dimension in which the members are found."""
    rows: tuple[LayoutRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Hierarchy(Part):
    """A way down through a dimension: named levels, coarsest first; parents and children; a list of sets; or the rows
    of a financial layout."""

    name: str
    caption: str | None = None
    levels: tuple[str, ...] = ()
    parent_child: ParentChild | None = None
    sets: tuple[NamedSet, ...] = ()
    """A list to see a measure by. Sets may overlap: a record counts in each that holds it, and once in totals."""
    layout: FinancialLayout | None = None
    blanks: Literal["show", "pass"] = "show"
    """Whether a blank between levels is a member of its own, or is passed over to the members below it."""

    @property
    def is_list(self) -> bool:
        """Whether its members are sets of others, which may overlap."""
        return bool(self.sets) or self.layout is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class Dimension(Part):
    """Something to see a measure by. Its first hierarchy is the one a person gets without choosing."""

    name: str
    caption: str
    table: str
    key: str | None = None
    """Column that the facts point at; none for a dimension made of a fact's own columns."""
    attributes: tuple[Attribute, ...]
    hierarchies: tuple[Hierarchy, ...]
    all: str | None = None
    """Caption of the top member, "All lines"."""
    without: str | None = None
    """Caption of the member of records that belong nowhere, "without a line"."""
    default: tuple[MemberPath, ...] = ()
    """Members that a new analysis keeps, as a visible phrase."""
    alternatives: bool = False
    """Whether its members are alternatives, such as actual and plan, over which nothing is added up."""
    description: str = ""
    synonyms: tuple[str, ...] = ()

    def attribute(self, name: str) -> Attribute:
        """The attribute of that name. Raises KeyError."""
        return next_named(self.attributes, name)

    def hierarchy(self, name: str) -> Hierarchy:
        """The hierarchy of that name. Raises KeyError."""
        return next_named(self.hierarchies, name)

    @property
    def all_caption(self) -> str:
        return self.all or f"All of {self.caption}"

    @property
    def without_caption(self) -> str:
        return self.without or without_words(self.caption)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure(Part):
    """A number that can be asked of any scope of one table's records."""

    name: str
    caption: str
    table: str
    aggregate: Aggregate
    expression: str | None = None
    """A column or a row formula, `quantity * price`; none for `count`, `open`, `ratio` and `formula`."""
    percentile: float | None = None
    """Of a percentile: between 0 and 100. A value between two records is interpolated."""
    weight: str | None = None
    """Of a weighted average: a column or row formula that weighs each record."""
    time: str | None = None
    """Of a balance and of what is open: the calendar dimension, along which it is not added. Of first and last:
    the calendar dimension that tells which record that is; of several on one day, the one of the largest value."""
    over_time: Literal["last", "first", "average"] = "last"
    """Of a balance: which of the loaded days inside a period it is taken at."""
    started: str | None = None
    """Of what is open: the column with the day on which it began."""
    ended: str | None = None
    """Of what is open: the column with the day on which it ended, blank until then."""
    numerator: str | None = None
    """Of a ratio: the measure above the line."""
    denominator: str | None = None
    """Of a ratio: the measure below the line."""
    formula: Expression | None = None
    """Of a formula: what it is of which other measures."""
    where: tuple[Condition, ...] = ()
    """The measure's own condition: it counts only records for which all of these hold."""
    roles: dict[str, str] = field(default_factory=dict)
    """Per dimension, the role of the relationship by which this measure is reached."""
    format: str = "#,##0"
    """CLDR number pattern."""
    favourable: Literal["more", "less"] | None = None
    """Whether more of it is good (revenue) or less (cost): changes are marked by it. Left out, they are not marked."""
    unit: str = ""
    folder: str = ""
    description: str = ""
    synonyms: tuple[str, ...] = ()

    @property
    def is_of_others(self) -> bool:
        """Whether it is worked out from other measures, and counts no records by itself."""
        return self.aggregate in ("ratio", "formula")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadyMade(Part):
    """A ready-made filter: a condition under a name."""

    name: str
    caption: str
    condition: Condition
    description: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking(Part):
    """The members that come first by a measure."""

    measure: str
    count: Literal["members", "percent_of_members", "percent_of_measure"] = "members"
    """How `amount` counts: members, per cent of the members, or those that together make so much of the measure."""
    amount: float
    side: Literal["largest", "smallest"] = "largest"


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberList(Part):
    """Members of one hierarchy under a name: these, or by a rule all those for which it holds just now.

    Which they are is asked of the data and of what its reader may see, whatever a table shows and its filters say.
    """

    name: str = ""
    """In an analysis made of the caption where it is left out."""
    caption: str
    dimension: str
    hierarchy: str
    members: tuple[MemberPath, ...] = ()
    """Without a rule: the members. With a rule: only members below these follow it; left out, all do."""
    level: str | None = None
    """Of a rule: the level of its members."""
    where: tuple[Condition, ...] = ()
    """Of a rule: what holds for each of its members, of their attributes and of measures at their level."""
    ranked: Ranking | None = None
    """Of a rule: those of these that come first."""
    over: tuple[Condition, ...] = ()
    """Of a rule: the records over which its measures are taken. Left out, they are all that its reader may see."""
    description: str = ""

    @property
    def is_rule(self) -> bool:
        """Whether its members are found, and may be others tomorrow."""
        return self.level is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelJoint(Part):
    """A joint member that any analysis may take in: it has the records of others, each once, and stands beside them."""

    name: str
    caption: str
    dimension: str
    hierarchy: str
    members: tuple[MemberPath, ...]
    how: Literal["together", "difference", "ratio"] = "together"
    """A difference or ratio is of two members: every number of the first less, or by, that of the second."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Role(Part):
    """What the people of a role may see: only records for which every condition holds."""

    name: str
    caption: str
    conditions: tuple[Condition, ...]
    elsewhere: Literal["nothing", "everything"] = "nothing"
    """What is seen of records that a condition's dimension does not reach."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Assumption(Part):
    """What a proposed model takes to be so. It leaves the document once somebody has confirmed or mended it."""

    about: str
    """What it is about: a table, or one of its columns as "table.column"."""
    says: str
    because: str = ""
    """What was seen that speaks for it."""
    is_unsure: bool = False
    """Whether something else may as well be meant."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SemanticModel(Part):
    """The whole model document, version `model/1`."""

    dastan: Literal["model/1"]
    name: str
    caption: str
    description: str = ""
    tables: dict[str, Table]
    relationships: tuple[Relationship, ...] = ()
    dimensions: tuple[Dimension, ...]
    measures: tuple[Measure, ...]
    filters: tuple[ReadyMade, ...] = ()
    """Ready-made filters."""
    lists: tuple[MemberList, ...] = ()
    """Members under a name, usable wherever members are."""
    joints: tuple[ModelJoint, ...] = ()
    """Joint members, which an analysis takes in where it wants them."""
    prompts: tuple[Prompt, ...] = ()
    """Questions that are asked of whoever uses a condition which needs their answer."""
    roles: tuple[Role, ...] = ()
    """Row-level security. People without any of these roles see every record."""
    assumed: tuple[Assumption, ...] = ()
    """What nobody has confirmed yet, of a model that was proposed from its tables."""

    def dimension(self, name: str) -> Dimension:
        """The dimension of that name. Raises KeyError."""
        return next_named(self.dimensions, name)

    def measure(self, name: str) -> Measure:
        """The measure of that name. Raises KeyError."""
        return next_named(self.measures, name)


def without_words(caption: str) -> str:
    """What records without a member are called: "without a line", "without an account"."""
    return f"without {with_article(caption)}"


def with_article(caption: str) -> str:
    """One of a kind, in small letters: "a line", "an account"."""
    return f"{'an' if caption[:1].lower() in 'aeiou' else 'a'} {caption.lower()}"


def next_named(parts: tuple[_Named, ...], name: str) -> _Named:
    """The part called `name`. Raises KeyError."""
    for part in parts:
        if part.name == name:
            return part
    raise KeyError(name)
