#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""bench_history.py on made-up measurements: what became slower is said, a slower machine is not, and states are kept."""

import json
import pathlib
import subprocess
import sys
import tempfile

tool = pathlib.Path(sys.argv[1]) / "tools" / "bench_history.py"


def write(folder, bench, times_us):
    """Three repetitions of each, the second the shortest."""
    runs = [
        {"run_name": name, "run_type": "iteration", "cpu_time": time * slow, "time_unit": "us"}
        for name, time in times_us.items()
        for slow in (1.3, 1.0, 1.1)
    ]
    runs.append({"run_name": next(iter(times_us)), "run_type": "aggregate", "cpu_time": 0.001, "time_unit": "us"})
    (folder / f"{bench}.json").write_text(json.dumps({"context": {"num_cpus": 2, "mhz_per_cpu": 2500}, "benchmarks": runs}))


def ask(measured, history, *more):
    return subprocess.run(
        [sys.executable, tool, measured, history, *more], capture_output=True, text=True, check=False, cwd=tool.parent
    )


with tempfile.TemporaryDirectory() as folder:
    measured = pathlib.Path(folder) / "measured"
    history = pathlib.Path(folder) / "history"
    measured.mkdir()

    nothing = ask(measured, history)
    assert nothing.returncode != 0 and "no measurements" in nothing.stderr, nothing

    write(measured, "mixing", {"floorKernel/100": 100.0, "mixerPitched/100": 200.0, "courseStep": 10.0})
    write(measured, "edit", {"makeTheScene": 4000.0})
    first = ask(measured, history, "--keep")
    assert first.returncode == 0 and "nothing to compare" in first.stdout, first
    states = list(history.glob("*.json"))
    assert len(states) == 1, states
    state = json.loads(states[0].read_text())
    assert state["times_ns"]["mixing/mixerPitched/100"] == 200_000.0, state
    states[0].rename(history / "2020-01-01-first.json")

    # A machine of half the speed, on which one of them took three times as long, and another half as long as it should.
    write(measured, "mixing", {"floorKernel/100": 200.0, "mixerPitched/100": 1200.0, "courseStep": 10.0})
    write(measured, "edit", {"makeTheScene": 8100.0, "walkInACrowd": 5.0})
    second = ask(measured, history)
    assert second.returncode == 1, second
    assert "slower   3.00 times  mixing/mixerPitched/100" in second.stdout, second.stdout
    assert "faster   2.00 times  mixing/courseStep" in second.stdout, second.stdout
    assert "makeTheScene" not in second.stdout and "floorKernel" not in second.stdout, second.stdout
    assert "1 as they were, 1 new" in second.stdout, second.stdout

print("bench_history says what became slower")
