"""The numbers by which hashes are mixed: no loops, so that nothing is compiled where only they are needed."""

import numpy as np

MULTIPLIER = np.uint64(0x9E3779B97F4A7C15)
"""What a polynomial of hashes is one in."""

STIRRING = (
    (np.uint64(30), np.uint64(0xBF58476D1CE4E5B9)),
    (np.uint64(27), np.uint64(0x94D049BB133111EB)),
)
"""The shifts and factors of the finaliser; see ``pravix.relation.hashes``."""

LAST_SHIFT = np.uint64(31)
