"""Several sources at once: each with an analysis of its own, and one design for all."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace as with_fields

from pravix.analysis import Analysis
from pravix.document.story import ClaimDocument
from pravix.engines.staying import Staying
from pravix.errors import InputError
from pravix.ledger.ledger import Ledger
from pravix.proof.claim import Claim
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.sources.reading import Reading
from pravix.sources.several import named_sources

if TYPE_CHECKING:
    from pravix.design.joint import Joint
    from pravix.document.model import JointDocument

_POLICIES: Mapping[str, str | None] = {"surrogates": "never", "numbering": "table"}
"""The tables of several sources are known again by their own keys; numbers made for each would hide them."""


@dataclass(frozen=True)
class Assembly:
    """Several sources by name, each with its analysis."""

    analyses: Mapping[str, Analysis]

    @classmethod
    def of(cls, sources: Sequence[str], analysis: Callable[..., Analysis] = Analysis) -> Assembly:
        """Return files, folders, workbooks and databases with an ``analysis`` of each of their tables.

        Each table has the ledger of its source. Of several sheets the ledger goes with the one that it names.
        """
        named = named_sources(sources)
        tables = Counter(path for path, _ in named.values())
        return cls(
            {name: _analysis(analysis, path, how, tables[path] > 1) for name, (path, how) in named.items()}
        )

    @property
    def relations(self) -> dict[str, Relation]:
        """The rows of each source as they stand there. Raises InputError where they do not fit in memory."""
        for analysis in self.analyses.values():
            if isinstance(analysis.source, Staying):
                raise InputError(
                    f"{analysis.source.account.name} does not fit into memory, and several sources must",
                    "Decompose it by itself, or allow more memory: --memory",
                )
        return {name: analysis.source.relation for name, analysis in self.analyses.items()}

    @cached_property
    def design(self) -> Joint:
        """One design for all. Raises InputError where the design of one source cannot be proved."""
        from pravix.design.joint import joint_design

        designs = {name: self.analyses[name].design for name in self.relations}
        for name, design in designs.items():
            if not design.proof.holds:
                raise InputError(
                    f"the design of {name} cannot be proved",
                    f"See what is wrong: decompose {self.analyses[name].source.account.name} by itself.",
                )
        return joint_design(designs)

    @cached_property
    def document(self) -> JointDocument:
        """The joint design as design.json has it, with what was proved of it in SQLite, from files."""
        from pravix.document.joint_document import joint_document
        from pravix.folder.writer import write_folder

        document = joint_document(
            self.design,
            {name: analysis.ledger.meanings for name, analysis in self.analyses.items()},
            {name: analysis.basis for name, analysis in self.analyses.items()},
        )
        with tempfile.TemporaryDirectory() as folder:
            tried = Path(folder) / "tried"
            write_folder(document, self.design.tables, str(tried))
            claims = prove_folder(tried)
        told = tuple(ClaimDocument(holds=holds, claim=claim) for holds, claim in claims)
        return with_fields(document, proof_told=told)

    @property
    def proof(self) -> list[Claim]:
        """What was proved of the joint design, and whether it holds."""
        return [(one.holds, one.claim) for one in self.document.proof_told]

    def write(self, path: str | Path) -> list[str]:
        """Write one folder for all and return the names of its files.

        Where a claim of the proof does not hold, InputError is raised and nothing is written.
        """
        from pravix.folder.writer import write_folder

        for holds, told in self.proof:
            if not holds:
                raise InputError("one design for all cannot be proved, so nothing was written", told)
        return write_folder(self.document, self.design.tables, str(path))


def _analysis(analysis: Callable[..., Analysis], path: str, reading: Reading, shared: bool) -> Analysis:
    made = analysis(path, reading, policies=_POLICIES)
    if made.ledger.wishes.until == "4nf":  # Of several sources independent lists stay together.
        made = analysis(path, reading, policies={**_POLICIES, "until": "bcnf"})
    if shared and made.ledger.reading.sheet != reading.sheet:
        return made.with_ledger(Ledger())
    return made
