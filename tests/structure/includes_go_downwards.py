# SPDX-License-Identifier: GPL-3.0-or-later
"""The folders of the core, and those of the window, are layers: each includes only itself and those below it. None of the core
includes Qt or the window."""
import pathlib
import re
import sys

ORDER = ["geometry", "dsp", "project", "level", "acoustics", "world", "hearing", "spatial", "media", "engine", "analysis", "takes",
         "posts", "exports", "follow"]
WINDOW = ["theme", "session", "widgets", "lanes", "forms", "crowd", "levels", "walks", "blind", "dial", "walls", "sounds", "ambience", "rooms", "gaze", "ears", "bench",
          "lists", "plan", "contours", "posts", "section", "eyes", "strata", "exports", "game", "shell"]

root = pathlib.Path(sys.argv[1])
core = root / "src" / "core"
wrong = []
for file in sorted(core.rglob("*.[ch]*")):
    folder = file.relative_to(core).parts[0]
    for number, line in enumerate(file.read_text().splitlines(), 1):
        include = re.match(r'#include\s+["<]([^">]+)[">]', line)
        if not include:
            continue
        target = include.group(1)
        first = target.split("/")[0]
        if re.match(r"Q[A-Z]", target) or first in ("app", "cli", "device"):
            wrong.append(f"{file}:{number}: {target} does not belong in the core")
        elif first in ORDER and ORDER.index(first) > ORDER.index(folder):
            wrong.append(f"{file}:{number}: {folder} lies below {first}")
for folder in sorted(p.name for p in core.iterdir() if p.is_dir()):
    if folder not in ORDER:
        wrong.append(f"src/core/{folder} has no place among the layers")

window = root / "src" / "app"
for file in sorted(window.rglob("*.[ch]*")):
    parts = file.relative_to(window).parts
    if len(parts) < 2:
        continue  # the programs' own files, above all folders
    if parts[0] not in WINDOW:
        wrong.append(f"src/app/{parts[0]} has no place among the layers")
        continue
    for number, line in enumerate(file.read_text().splitlines(), 1):
        include = re.match(r'#include\s+"app/([^/"]+)/', line)
        if include and WINDOW.index(include.group(1)) > WINDOW.index(parts[0]):
            wrong.append(f"{file}:{number}: {parts[0]} lies below {include.group(1)}")
print("\n".join(wrong) if wrong else "every include goes downwards")
sys.exit(1 if wrong else 0)
