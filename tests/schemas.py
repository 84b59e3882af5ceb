#!/usr/bin/env python3
"""Holds records against docs/schema with a validator that is not ours: schemas.py SCHEMAS RECORD...

Each record must pass; with any of its top-level fields deleted, or of another type, it must not (tried with the first
three of each kind). The fields that may be missing are those whose schema says when they are absent. Every kind of
record that has a schema must be among them.
"""
import copy
import glob
import json
import os
import sys

from jsonschema import Draft202012Validator, RefResolver

folder, *files = sys.argv[1:]
schemas = {}
store = {}
for path in glob.glob(os.path.join(folder, "*.json")):
    with open(path, encoding="utf-8") as file:
        schema = json.load(file)
    Draft202012Validator.check_schema(schema)
    store[schema["$id"]] = schema
    if "title" in schema:
        schemas[schema["title"]] = schema

faults = []
tried = 0
seen = {}


def passes(record, schema):
    resolver = RefResolver(base_uri=schema["$id"], referrer=schema, store=store)
    return Draft202012Validator(schema, resolver=resolver).is_valid(record)


# Of a schema and those that it is made of.
def optional_fields(schema):
    fields = {name for name, rule in schema.get("properties", {}).items() if "absent" in rule.get("description", "")}
    for part in schema.get("allOf", []):
        if "$ref" in part:
            base = schema["$id"].rsplit("/", 1)[0]
            fields |= optional_fields(store[f"{base}/{part['$ref']}"])
    return fields


for path in files:
    with open(path, encoding="utf-8") as file:
        record = json.load(file)
    kind = record["record"]
    schema = schemas[kind]
    if not passes(record, schema):
        faults.append(f"{path}: it does not pass as it is")
        continue
    # A few records of a kind show all its fields.
    seen[kind] = seen.get(kind, 0) + 1
    if seen[kind] > 3:
        continue
    may_miss = optional_fields(schema)
    for field in record:
        if field not in may_miss:
            tried += 1
            less = copy.deepcopy(record)
            del less[field]
            if passes(less, schema):
                faults.append(f"{path}: '{field}' of {kind} may be missing")
        if field == "record":
            continue
        tried += 1
        other = copy.deepcopy(record)
        other[field] = True if isinstance(record[field], dict) or record[field] is None else {"no": ["such"]}
        if passes(other, schema):
            faults.append(f"{path}: '{field}' of {kind} may be of another type")

for kind in schemas:
    if kind.startswith("truecurve.") and kind not in seen:
        faults.append(f"no record is of the kind {kind}")
for fault in faults:
    print(fault)
print(f"{len(files)} records, {tried} changes tried, {len(faults)} unnoticed")
sys.exit(1 if faults or not files else 0)
