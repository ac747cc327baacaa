# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window counts it counts in words that hold for one thing, too: each text with a number before a word for many has its
singular in theme/singular.cpp, and each one there is said somewhere."""
import pathlib
import re
import sys

LITERALS = r'((?:"(?:[^"\\]|\\.)*"\s*)+)'


def joined(literals):
    return "".join(re.findall(r'"((?:[^"\\]|\\.)*)"', literals))


window = pathlib.Path(sys.argv[1]) / "src" / "app"
listed = {joined(found) for found in re.findall(r"\{" + LITERALS + ",", (window / "theme" / "singular.cpp").read_text())}
said = set()
wrong = []
for file in sorted(window.rglob("*.cpp")):
    text = file.read_text()
    for found in re.finditer(r"\btr\(\s*" + LITERALS, text):
        words = joined(found.group(1))
        if "%n" not in words:
            continue
        said.add(words)
        if re.search(r"%n (are\b|([a-z]+ )?[a-z]+s\b)", words) and words not in listed:
            line = text.count("\n", 0, found.start()) + 1
            wrong.append(f'{file}:{line}: "{words}" is not right for one: say in theme/singular.cpp what is')
wrong += [f'theme/singular.cpp: nobody says "{words}"' for words in sorted(listed - said)]
if not said:
    wrong.append("no text with a number was found: are they written otherwise now?")
print("\n".join(wrong) if wrong else f"{len(said)} texts with a number, {len(listed)} with a singular of their own")
sys.exit(1 if wrong else 0)
