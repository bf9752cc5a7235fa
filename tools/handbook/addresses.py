"""The addresses that programs may ask, from the description of the API."""

from itertools import groupby
from pathlib import Path
from typing import Any

from nebrel.api.app import create_app
from nebrel.settings import Settings
from tools.handbook.tables import table

INTRO = """# Addresses for programs

The server of the pages answers programs as well; this page is made of its own description, which it gives as JSON at
`/openapi.json`. Bodies are JSON unless they are files. A refusal has a status of 4xx or 5xx and one sentence in
`message`. Where an access token is needed, it goes along as `?token=…`; see [Keeping and sharing](keeping.md).
"""
WAYS = ("get", "put", "post", "delete", "patch")


def addresses_page() -> str:
    """Every address, by subject."""
    told = create_app(Settings(data_dir=Path("unused"))).openapi()
    ways = [
        (operation["tags"][0], way.upper(), path, operation)
        for path, operations in told["paths"].items()
        for way, operation in operations.items()
        if way in WAYS
    ]
    ways.sort(key=lambda each: each[0])
    text = INTRO
    for subject, group in groupby(ways, key=lambda each: each[0]):
        rows = [(f"`{way} {path}`", _told(operation)) for _, way, path, operation in group]
        text += f"\n## {subject[:1].upper()}{subject[1:]}\n\n" + table(("address", ""), rows)
    return text


def _told(operation: dict[str, Any]) -> str:
    takes, gives = _takes(operation), _gives(operation)
    told = [_does(operation), takes and f"Takes {takes}.", gives and f"Gives {gives}."]
    return " ".join(each for each in told if each)


def _does(operation: dict[str, Any]) -> str:
    return operation.get("description", operation.get("summary", "")).partition("\n\n")[0]


def _takes(operation: dict[str, Any]) -> str:
    query = [f"`?{each['name']}`" for each in operation.get("parameters", []) if each["in"] == "query"]
    content = operation.get("requestBody", {}).get("content", {})
    return ", ".join([*query, *(_shape(kind, body) for kind, body in content.items())])


def _gives(operation: dict[str, Any]) -> str:
    for status, answer in operation["responses"].items():
        if status.startswith("2"):
            return ", ".join(_shape(kind, body) for kind, body in answer.get("content", {}).items())
    return ""


def _shape(kind: str, body: dict[str, Any]) -> str:
    schema = body.get("schema", {})
    if "items" in schema:
        return f"a list of {_name(schema['items'])}"
    if kind != "application/json" and not kind.startswith("multipart"):
        return kind
    return "a form with a file" if kind.startswith("multipart") else _name(schema)


def _name(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return f"`{schema['$ref'].rpartition('/')[2]}`"
    kinds = [_name(each) for each in (*schema.get("anyOf", ()), *schema.get("oneOf", ())) if each.get("type") != "null"]
    return " or ".join(kinds) or schema.get("type", "JSON")
