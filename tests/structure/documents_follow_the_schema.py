# SPDX-License-Identifier: GPL-3.0-or-later
"""Every document in the tree is valid by docs/project.schema.json, and wrong ones are not."""
import copy
import json
import pathlib
import sys

import jsonschema

root = pathlib.Path(sys.argv[1])
schema = json.loads((root / "docs" / "project.schema.json").read_text())
jsonschema.Draft7Validator.check_schema(schema)
validator = jsonschema.Draft7Validator(schema)

documents = sorted(root.glob("demo/*/project.json")) + sorted(root.glob("examples/*/project.json"))
assert documents, "no documents found"
failed = False
for document in documents:
    for error in validator.iter_errors(json.loads(document.read_text())):
        print(f"{document}: {'/'.join(map(str, error.absolute_path))}: {error.message}")
        failed = True

good = json.loads(documents[0].read_text())
for what, change in {
    "a level as text": lambda d: d["levels"][0]["emitters"][0].update(level_db="loud"),
    "a place of one number": lambda d: d["levels"][0]["emitters"][0].update(at=[1]),
    "an unknown kind": lambda d: d["levels"][0]["emitters"][0].update(kind="cloud"),
    "no voices": lambda d: d.update(voices=0),
}.items():
    bad = copy.deepcopy(good)
    change(bad)
    if validator.is_valid(bad):
        print(f"the schema accepts {what}")
        failed = True
sys.exit(1 if failed else 0)
