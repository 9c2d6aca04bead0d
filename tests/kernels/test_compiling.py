"""The inner loops, compiled beforehand and by Numba."""

import subprocess
import sys

import numpy as np
import pytest

from pravix.discovery.search import Plan, discover
from pravix.kernels import compiling, groups
from pravix.relation.relation import Relation

beforehand = pytest.mark.skipif(
    compiling.MACHINE_CODE is None, reason="no machine code here: install a wheel, not an editable checkout"
)

_SEARCH = """
import sys
BY_NUMBA = True
if BY_NUMBA:
    sys.modules["pravix.kernels._machine_code"] = None
import numpy as np
from pravix.discovery.search import Plan, discover
from pravix.relation.relation import Relation
draw = np.random.default_rng(3)
rows = draw.integers(0, 4, (60, 7)).astype(str).tolist()
relation = Relation.from_rows([f"c{n}" for n in range(7)], rows)
for plan in Plan:
    if plan is not Plan.LEVELS:
        found = discover(relation, plan=plan)
        print(plan, sorted(map(str, found.dependencies)), sorted(map(sorted, found.keys)))
"""


def test_numba_and_machine_code_find_the_same():
    told = [
        subprocess.run(
            [sys.executable, "-c", _SEARCH.replace("BY_NUMBA = True", f"BY_NUMBA = {by_numba}")],
            capture_output=True, text=True, check=True,
        ).stdout
        for by_numba in (True, False)
    ]  # fmt: skip
    assert told[0] == told[1]
    assert "c0" in told[0]


@beforehand
def test_machine_code_refuses_arrays_that_it_was_not_made_for():
    codes = np.arange(20, dtype=np.int32)
    for wrong in (codes.astype(np.int64), codes[::2]):
        with pytest.raises(TypeError, match="groups_split is not compiled for such arrays"):
            groups.split(wrong, codes[: len(wrong)].copy())


@beforehand
def test_numba_is_not_loaded_where_there_is_machine_code():
    code = _SEARCH.replace("BY_NUMBA = True", "BY_NUMBA = False") + "\nprint('numba' in sys.modules)"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert told.splitlines()[-1] == "False"


def test_a_search_goes_on_in_other_threads_while_a_loop_runs():
    from threading import Event, Thread

    seen, stop = [], Event()

    def count():
        while not stop.is_set():
            seen.append(None)
            stop.wait(0.0005)

    draw = np.random.default_rng(4)
    rows = draw.integers(0, 3, (6000, 20)).astype(str).tolist()
    relation = Relation.from_rows([f"c{n}" for n in range(20)], rows)
    thread = Thread(target=count)
    thread.start()
    try:
        discover(relation, plan=Plan.PAIRS, largest=2)
    finally:
        stop.set()
        thread.join()
    assert len(seen) > 5
