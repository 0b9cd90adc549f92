"""The description of all routes (OpenAPI 3.1), made from what the views declare."""

from __future__ import annotations

import re
from typing import Any

from flask import Flask
from werkzeug.routing import Rule

from velvetdrum import __version__
from velvetdrum.studio.http.page_header import MARK
from velvetdrum.studio.http.requests import Asked, requested_by

_HIDDEN = {"static"}
_ERROR = {
    "type": "object",
    "required": ["error"],
    "properties": {
        "error": {"type": "string", "description": "A sentence: what happened, what to do."},
        "problems": {
            "type": "array",
            "items": {"type": "object", "properties": {"path": {"type": "string"}, "sentence": {"type": "string"}}},
        },
    },
}
_REFUSED = {
    "4XX": {"description": "Refused, with a sentence.", "content": {"application/json": {"schema": _ERROR}}},
    "503": {"description": "Not now; it may be tried again.", "content": {"application/json": {"schema": _ERROR}}},
    "507": {"description": "The disk is full.", "content": {"application/json": {"schema": _ERROR}}},
}


def described(app: Flask) -> dict[str, Any]:
    """The OpenAPI document of an application."""
    paths: dict[str, dict[str, Any]] = {}
    for rule in sorted(app.url_map.iter_rules(), key=lambda rule: rule.rule):
        if rule.endpoint in _HIDDEN:
            continue
        view = app.view_functions[rule.endpoint]
        place = paths.setdefault(re.sub(r"<(?:[^:<>]+:)?(\w+)>", r"{\1}", rule.rule), {})
        for method in sorted((rule.methods or set()) - {"HEAD", "OPTIONS"}):
            place[method.lower()] = _operation(rule, view, method)
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Velvet Drum",
            "version": __version__,
            "description": "What the studio's pages ask their server. Times are seconds, levels dBFS.",
        },
        "paths": paths,
    }


def _operation(rule: Rule, view: Any, method: str) -> dict[str, Any]:
    asked = requested_by(view)
    about = " ".join((view.__doc__ or rule.endpoint).split())
    out: dict[str, Any] = {
        "operationId": f"{rule.endpoint}.{method.lower()}",
        "summary": about.split(". ")[0].rstrip("."),
        "parameters": [_path_parameter(rule, name) for name in sorted(rule.arguments)] + _query(asked),
        "responses": {"2XX": {"description": "Done."}, "3XX": {"description": "Elsewhere."}, **_REFUSED},
    }
    if method != "GET":
        out["parameters"].append(
            {
                "name": MARK,
                "in": "header",
                "required": True,
                "schema": {"const": "1"},
                "description": "Sent by the studio's own pages; other sites can't add it.",
            }
        )
    if asked.body is not None:
        out["requestBody"] = {"content": {"application/json": {"schema": asked.body.schema()}}}
    elif asked.file:
        schema = {"type": "string", "format": "binary", "maxLength": asked.most_bytes}
        out["requestBody"] = {
            "description": f"{asked.file}.",
            "required": True,
            "content": {"application/octet-stream": {"schema": schema}},
        }
    return out


def _path_parameter(rule: Rule, name: str) -> dict[str, Any]:
    schema: dict[str, Any] = {"type": "string", "maxLength": 64}
    result = re.search(rf"<any\(([^)]*)\):{name}>", rule.rule)
    if result:
        schema = {"enum": [word.strip() for word in result[1].split(",")]}
    return {"name": name, "in": "path", "required": True, "schema": schema}


def _query(asked: Asked) -> list[dict[str, Any]]:
    if asked.query is None:
        return []
    return [
        {"name": name, "in": "query", "required": part.required, "schema": part.schema()}
        for name, part in asked.query.parts.items()
    ]
