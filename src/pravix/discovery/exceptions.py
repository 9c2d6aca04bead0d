"""The rows that break a rule: the fewest to take out so that it holds.

Source: the g3 error of J. Kivinen and H. Mannila, "Approximate inference of functional dependencies
from relations", Theoretical Computer Science 149(1), 1995.
"""

from __future__ import annotations

import numpy as np

from pravix.relation.grouping import groups_by
from pravix.relation.relation import Positions, Relation
from pravix.theory.dependency import Dependency


def exceptions(relation: Relation, rule: Dependency) -> Positions:
    """Return the positions of the rows that do not hold their group's most frequent dependent.

    Of equally frequent values the one that comes first in the group stays. Empty exactly when the rule
    holds in the rows, blanks taken as equal. n log n in the rows.
    """
    groups = groups_by(relation, sorted(rule.determinant))
    pairs = groups_by(relation, [*sorted(rule.determinant), rule.dependent])
    frequency = np.bincount(pairs)
    order = np.lexsort((np.arange(relation.row_count), -frequency[pairs], groups))
    leading = order[np.concatenate(([True], groups[order][1:] != groups[order][:-1]))]
    kept = pairs[leading][groups[order]] == pairs[order]
    return np.sort(order[~kept])
