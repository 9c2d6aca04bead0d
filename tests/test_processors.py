"""How many processors the program takes."""

import os
import subprocess
import sys

import pytest

from pravix.processors import processors


@pytest.mark.skipif(not hasattr(os, "sched_setaffinity"), reason="this system binds no process to processors")
def test_only_those_processors_count_that_the_process_may_run_on():
    told = (
        "import os; from pravix.processors import processors; "
        "os.sched_setaffinity(0, sorted(os.sched_getaffinity(0))[:1]); print(processors())"
    )
    done = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True)
    assert done.stdout == "1\n"


def test_where_the_system_does_not_tell_all_count(monkeypatch):
    monkeypatch.delattr(os, "sched_getaffinity", raising=False)
    monkeypatch.setattr(os, "cpu_count", lambda: 6)
    assert processors() == 6
    monkeypatch.setattr(os, "cpu_count", lambda: None)
    assert processors() == 1
