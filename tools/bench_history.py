#!/usr/bin/env python3
# SPDX-License-Identifier: GPL-3.0-or-later
"""Compares what benches measured with an earlier state.

bench_history.py MEASURED HISTORY [--keep]

MEASURED: a folder of JSON files as Google Benchmark writes them, one for each bench, named after it. HISTORY: a folder of states,
one JSON file each: {"date", "commit", "processor", "times_ns": {"bench/benchmark": nanoseconds}}, the latest by name. Of several
repetitions the shortest counts: everything else that runs only adds. Times are compared after division by how the floors of
the same bench changed, so that a slower machine is not taken for slower code; where a bench has none, by how all floors did.
Without any floor they are compared as they are.
"""

import datetime
import json
import pathlib
import statistics
import subprocess
import sys

# What a bench measures others against: code that is not ours to make faster or slower.
FLOORS = {"floorKernel", "floorOfANetwork", "floorOfReflections", "bareRays", "firTwoEars", "probeFloor", "distancesKernel"}
# Differences below this are the machine's.
NOTICED = 1.15


def is_floor(name):
    return name.split("/")[1] in FLOORS


def measured(folder):
    """The shortest time of each benchmark in nanoseconds, and the processor's clock as the benches saw it."""
    scale = {"ns": 1.0, "us": 1e3, "ms": 1e6, "s": 1e9}
    times = {}
    processor = ""
    for file in sorted(folder.glob("*.json")):
        run = json.loads(file.read_text())
        context = run["context"]
        processor = f"{context['num_cpus']} x {context['mhz_per_cpu']} MHz"
        for one in run["benchmarks"]:
            if one.get("run_type") == "aggregate" or "error_occurred" in one:
                continue
            name = f"{file.stem}/{one['run_name']}"
            time = one["cpu_time"] * scale[one["time_unit"]]
            times[name] = min(times.get(name, time), time)
    return times, processor


def drift(now, then, bench):
    """How many times slower the machine is by the floors of a bench, or by all of them."""
    floors = [n for n in now if n in then and is_floor(n)]
    of_bench = [n for n in floors if n.split("/")[0] == bench]
    ratios = [now[n] / then[n] for n in of_bench or floors]
    return statistics.median(ratios) if ratios else 1.0


def compare(now, then):
    """(name, how many times slower) of everything that both have and that is no floor, the slowest first."""
    changes = []
    for name in now:
        if name in then and not is_floor(name):
            changes.append((name, now[name] / then[name] / drift(now, then, name.split("/")[0])))
    return sorted(changes, key=lambda change: -change[1])


def commit():
    return subprocess.run(["git", "rev-parse", "--short=10", "HEAD"], capture_output=True, text=True, check=True).stdout.strip()


def main():
    folder, history = (pathlib.Path(p) for p in sys.argv[1:3])
    now, processor = measured(folder)
    if not now:
        sys.exit(f"bench_history: {folder} has no measurements; run tools/bench.sh")
    states = sorted(history.glob("*.json"))
    slower = []
    if states:
        then = json.loads(states[-1].read_text())
        print(f"against {states[-1].name} ({then['processor']}), floors evened out:")
        changes = compare(now, then["times_ns"])
        slower = [c for c in changes if c[1] > NOTICED]
        faster = [c for c in changes if c[1] < 1.0 / NOTICED]
        for name, ratio in slower:
            print(f"  slower  {ratio:5.2f} times  {name}  {now[name] / 1e3:.1f} us")
        for name, ratio in reversed(faster):
            print(f"  faster  {1.0 / ratio:5.2f} times  {name}  {now[name] / 1e3:.1f} us")
        new = [n for n in now if n not in then["times_ns"]]
        print(f"  {len(changes) - len(slower) - len(faster)} as they were, {len(new)} new")
    else:
        print(f"{history} has no states yet: nothing to compare with")
    if "--keep" in sys.argv[3:]:
        date = datetime.date.today().isoformat()
        state = {"date": date, "commit": commit(), "processor": processor, "times_ns": {n: round(t, 1) for n, t in now.items()}}
        history.mkdir(parents=True, exist_ok=True)
        kept = history / f"{date}-{state['commit']}.json"
        kept.write_text(json.dumps(state, indent=1, sort_keys=True) + "\n")
        print(f"kept as {kept}")
    return 1 if slower else 0


if __name__ == "__main__":
    sys.exit(main())
