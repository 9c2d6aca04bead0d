"""What the analyst declares of columns where it was not found: a list, a family, a formula, a period, ...

One way of saying all of it: what it is, a colon, the columns, and after an equals sign how::

    list: tools = ;
    family: oil_a, oil_b, oil_c = oil
    family: tech1_no, tech1_name | tech2_no, tech2_name = tech
    one fact: raw, filtered = treatment
    computed: net_kg = gross_kg - tare_kg
    period: season
    identifier: lot
"""

from __future__ import annotations

from dataclasses import dataclass

from pravix.errors import InputError
from pravix.theory.dependency import DependencyTextError, parse_columns
from pravix.wording import joined, shortened

KINDS = ("list", "family", "one fact", "computed", "period", "identifier")
"""What can be declared of columns."""

OF_VALUES = ("period", "identifier")
"""What says what the values of a column are, and repairs nothing."""

GROUPS = "|"
"""What stands between the positions of a family of several facts."""

EXAMPLE = 'For example: "list: tools = ;" or "computed: net_kg = gross_kg - tare_kg"'


@dataclass(frozen=True)
class Declaration:
    """One declaration: what it ``says`` of some columns, and ``how``; ``place`` says where it stands.

    ``how`` is the mark between the items of a list, the name for a family or a fact, or a formula. The
    columns of a family of several facts come position by position, ``width`` of them for each.
    """

    says: str
    columns: tuple[str, ...]
    how: str = ""
    width: int = 1
    why: str = ""
    place: str = ""

    @property
    def text(self) -> str:
        """The declaration as it is written."""
        end = f" = {self.how}" if self.how else ""
        groups = [self.columns[at : at + self.width] for at in range(0, len(self.columns), self.width)]
        told = (
            f" {GROUPS} ".join(", ".join(group) for group in groups)
            if self.width > 1
            else ", ".join(self.columns)
        )
        return f"{self.says}: {told}{end}"


def declaration(text: str, why: str = "") -> Declaration:
    """Return the declaration that a text says. Raises InputError."""
    says, mark, rest = text.partition(":")
    says = says.strip()
    if not mark or says not in KINDS:
        raise InputError(f"{shortened(text)} declares nothing: say {joined(KINDS, 'or')}", EXAMPLE)
    columns, equals, how = rest.partition("=")
    if says in ("list", "computed") and not (equals and how.strip()):
        raise InputError(f"{shortened(text)}: say how, after an equals sign", EXAMPLE)
    try:
        groups = [parse_columns(group) for group in columns.split(GROUPS if says == "family" else "\0")]
    except DependencyTextError as error:
        raise InputError(f"{shortened(text)}: {error}", EXAMPLE) from None
    width = len(groups[0]) if len(groups) > 1 else 1
    if any(len(group) != width for group in groups) and len(groups) > 1:
        raise InputError(f"{shortened(text)}: each position of a family needs as many columns", EXAMPLE)
    named = tuple(name for group in groups for name in group)
    wanted = 2 if says in ("family", "one fact") else 1
    if len(named) < wanted or (says not in ("family", "one fact") and len(named) > 1):
        count = "two columns or more" if wanted == 2 else "one column"
        raise InputError(f"{shortened(text)}: {says} is about {count}", EXAMPLE)
    return Declaration(says, named, how.strip() if says != "list" else how.strip(" ") or " ", width, why)
