# SPDX-License-Identifier: GPL-3.0-or-later
"""Each source says under which licence it is: what games are built with under the MPL, the desk and all about it under the GPL. What
is under the MPL includes nothing that is not."""
import pathlib
import re
import sys

root = pathlib.Path(sys.argv[1])
FREE = [("src", "core"), ("src", "device"), ("src", "library"), ("examples", "host")]
wrong = []
for base in ("src", "tests", "bench", "demo/maker", "examples", "tools", "packaging"):
    for file in sorted((root / base).rglob("*")):
        if file.suffix not in (".cpp", ".h", ".c", ".py", ".sh", ".cmake") and file.name != "CMakeLists.txt":
            continue
        free = file.relative_to(root).parts[:2] in FREE
        wanted = "MPL-2.0" if free else "GPL-3.0-or-later"
        text = file.read_text()
        said = re.search(r"SPDX-License-Identifier: (\S+)", "\n".join(text.splitlines()[:3]))
        if not said or said.group(1) != wanted:
            wrong.append(f"{file}: says {said.group(1) if said else 'nothing'}, not {wanted}")
        if free and re.search(r'#include\s+"(app|cli|game)/', text):
            wrong.append(f"{file}: is under the MPL and includes what is not")
print("\n".join(wrong) if wrong else "every source says its licence")
sys.exit(1 if wrong else 0)
