"""The rows that break a rule: the fewest to take out so that it holds.

Source: the g3 error of J. Kivinen and H. Mannila, "Approximate inference of functional dependencies
from relations", Theoretical Computer Science 149(1), 1995.
"""

from __future__ import annotations

import numpy as np

from pravix.relation.grouping import constant_within, first_positions, groups_by, refined
from pravix.relation.relation import Positions, Relation
from pravix.theory.dependency import Dependency


def exceptions(relation: Relation, rule: Dependency) -> Positions:
    """Return the positions of the rows that do not hold their group's most frequent dependent.

    Of equally frequent values the one that comes first in the group stays. Empty exactly when the rule
    holds in the rows, blanks taken as equal. Linear in the rows once they are grouped.
    """
    groups, codes = groups_by(relation, rule.determinant), relation.column(rule.dependent).codes
    if constant_within(groups, codes):
        return np.empty(0, dtype=np.intp)
    pairs = refined(groups, codes)
    frequency = np.bincount(pairs)
    group_of = groups[first_positions(pairs)]
    most = np.zeros(int(groups.max()) + 1, dtype=frequency.dtype)
    np.maximum.at(most, group_of, frequency)
    candidates = np.flatnonzero(frequency == most[group_of])[::-1]
    leading = np.empty(len(most), dtype=np.intp)
    leading[group_of[candidates]] = candidates  # Pairs are numbered as they appear: the first one stays last.
    return np.flatnonzero(leading[groups] != pairs)
