"""What every stage of a plan returns: figures, verdicts, the headline ones, and tables of choices."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, ClassVar, TypeVar

from .figure import Figure
from .verdicts import LEVELS, Level, StageName, Verdict, verdict, worst

# What a table may hold: each row one of the classes that are declared as rows of it.
TABLES: dict[str, list[type[Row]]] = {}


class Row:
    """A row of a table of a stage; the class of its rows names the table, and each is a frozen dataclass."""

    OPEN: ClassVar[bool] = True
    TABLE: ClassVar[str]

    def __init_subclass__(cls, table: str = "") -> None:
        """Make the table known by its name."""
        if table:
            cls.OPEN, cls.TABLE = False, table
            TABLES.setdefault(table, []).append(cls)


R = TypeVar("R", bound=Row)


@dataclass(eq=False)
class Assessment:
    """The outcome of one stage, filled while it is computed; of a supply, `place` says where that stands in the document."""

    ONCE: ClassVar[bool] = True
    MEMBERS: ClassVar = ("stage", "worst", "headlines", "figures", ("verdicts", "by_level"), "tables")

    stage: StageName
    place: str = ""
    figures: list[Figure] = field(default_factory=list)
    verdicts: list[Verdict] = field(default_factory=list)
    headlines: list[str] = field(default_factory=list)
    tables: dict[str, list[Row]] = field(default_factory=dict)

    def add(self, figure: Figure, headline: bool = False) -> float:
        """Keep a figure and return its value.

        Arguments: figure; headline, whether it stands in large type.
        """
        self.figures.append(figure)
        if headline:
            self.headlines.append(figure.key)
        return figure.value

    def put(self, *rows: Row) -> None:
        """Keep rows of tables behind those that are there.

        Arguments: rows.
        """
        for row in rows:
            self.tables.setdefault(row.TABLE, []).append(row)

    def table(self, of: type[R]) -> list[R]:
        """Return the rows of a table, none where there is none.

        Arguments: of, the class of its rows.
        """
        return [row for row in self.tables.get(of.TABLE, ()) if isinstance(row, of)]

    def judge(self, code: str, subject: str, at: str, **values: Any) -> None:
        """Keep a verdict; the arguments are those of `verdicts.verdict`, a path that begins with a dot lies in `place`."""
        if values.get("fix"):
            values["fix"] = {self.path(p): v for p, v in values["fix"].items()}
        self.verdicts.append(verdict(code, subject, self.path(at), **values))

    def path(self, at: str) -> str:
        """Return a path of the document; one that begins with a dot lies in `place`."""
        return self.place + at if at.startswith(".") else at

    def take(self, *others: Assessment) -> Assessment:
        """Add all that others say, in this order, and return this assessment."""
        for r in others:
            self.figures += r.figures
            self.verdicts += r.verdicts
            self.headlines += r.headlines
            self.tables |= r.tables
        return self

    def value(self, key: str) -> float | None:
        """Return the value of a figure of this stage, None where it could not be computed."""
        return next((f.value for f in self.figures if f.key == key), None)

    @property
    def worst(self) -> Level | None:
        """The most serious of its verdicts, None where it has none."""
        return worst([v.level for v in self.verdicts]) if self.verdicts else None

    @property
    def by_level(self) -> list[Verdict]:
        """Its verdicts, the most serious ones first."""
        return sorted(self.verdicts, key=lambda v: LEVELS.index(v.level))
