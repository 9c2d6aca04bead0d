"""A new file held against a design: read, judged anew, and its bad rows written out."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from pravix.databases.known import database
from pravix.engines.staying import Staying, read_anywhere
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.proof.files import flat_rows
from pravix.sources.account import Account
from pravix.sources.reading import Reading
from pravix.sql.view import view_name
from pravix.validation.checking import Checked, CheckedInPlace, checked
from pravix.validation.new_rows import arrived_rows
from pravix.validation.restanding import changed_standings
from pravix.writing import new_file


@dataclass(frozen=True)
class CheckedFile:
    """What was found in a new file; ``standings`` are the rules that stand otherwise with its rows.

    ``checked`` has the rows themselves where they were read into memory.
    """

    account: Account
    checked: Checked | CheckedInPlace
    standings: Sequence[str]


def check_file(
    folder: Folder,
    source: str,
    reading: Reading | None = None,
    url: str | None = None,
    keep: str | None = None,
    rejudge: bool = False,
) -> CheckedFile:
    """Hold a new file against a design; see ``pravix.validation.checking.checked``.

    ``keep`` is a new CSV file for the rows that are not good, each with its reason; ``rejudge`` judges the
    rules anew with the rows of both. Raises InputError.
    """
    design = folder.design
    read = read_anywhere(source, folder.read_alike(reading or Reading()))
    if isinstance(read, Staying):
        with closing(read.flat.place):
            if url is not None or keep is not None or rejudge:
                raise InputError(
                    f"{read.account.name} does not fit into memory: its rows are looked at where they are",
                    "Leave --load, --keep and --rejudge away, or allow more memory: --memory",
                )
            return CheckedFile(read.account, _checked_outside(folder, read), [])
    new = arrived_rows(design, read.relation, read.account.name)
    if keep is not None and Path(keep).exists():
        raise InputError(f"{keep} is there already", "Give a new file.")
    done = checked(folder, new, url)
    standings = changed_standings(design, done.stored, new) if rejudge else []
    if keep is not None:
        _keep(Path(keep), design.source.columns, done)
    return CheckedFile(read.account, done, standings)


def _checked_outside(folder: Folder, read: Staying) -> CheckedInPlace:
    """Hold rows that stay outside memory against the tables of a folder: of a database, against those there.

    Those of a folder are joined and put beside a file that was landed.
    """
    from pravix.engines.landed import LandedPlace
    from pravix.validation.in_place import checked_in_place

    flat, design = read.flat, folder.design
    place, view = flat.place, view_name(design)
    kind = database(place.adaptor.name)
    if not isinstance(place, LandedPlace):
        try:
            place.run(f"SELECT 1 FROM {kind.quoted(view)} WHERE 1 = 0")
        except InputError:
            raise InputError(
                f"{place.name} has no view {view} of the tables of {folder.path}",
                "New rows in a database are held against the tables there: pravix load DIR URL",
            ) from None
        return checked_in_place(design, flat, read.account.name, kind.quoted(view))
    columns = [design.view_columns.get(name, name) for name in design.source.columns]
    stored = place.taken("stored rows", columns, flat_rows(folder))
    return checked_in_place(design, flat, read.account.name, stored)


def _keep(path: Path, columns: Sequence[str], done: Checked) -> None:
    """Write the rows that are not good as they came, with a column that tells why."""
    reasons: dict[int, list[str]] = {}
    for one in done.violations:
        for number in one.rows if one.keeps_out else ():
            reasons.setdefault(number, []).append(one.told)
    heading = "reason" if "reason" not in columns else "reason_kept"
    with new_file(path, fresh=True) as made, made.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow([*columns, heading])
        writer.writerows([*row.cells, "; ".join(reasons[row.number])] for row in done.bad)
