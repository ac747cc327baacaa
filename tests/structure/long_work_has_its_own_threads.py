# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window has done on other threads is done on threads of its own. Painting uses Qt's pool and waits for it: work that
takes long there would hold up every picture."""
import pathlib
import re
import sys

wrong = []
asked = 0
for file in sorted((pathlib.Path(sys.argv[1]) / "src" / "app").rglob("*.cpp")):
    text = file.read_text()
    for found in re.finditer(r"QtConcurrent::\w+\(\s*(&?)|QThreadPool::globalInstance", text):
        asked += 1
        if found.group(1) != "&":
            line = text.count("\n", 0, found.start()) + 1
            wrong.append(f"{file}:{line}: works on Qt's own threads; give it workPool() or a pool of its own")
if asked == 0:
    wrong.append("no work on other threads was found: has it another name now?")
print("\n".join(wrong) if wrong else f"{asked} jobs, each on threads of the window")
sys.exit(1 if wrong else 0)
