"""Style sheets of SVG files, written into the elements that they style: the drawing library knows none.

Selectors by element, class and id are heeded; of other ones nothing is taken.
"""

from __future__ import annotations

from typing import Any

from velvetdrum.picture.media.svg.parser import SvgError, local_name

MOST_WRITTEN = 4_000_000
"""Characters that style sheets may grow to when they are written into the elements."""

Declarations = dict[str, str]


def rules_of(text: str) -> list[tuple[str, str]]:
    """Selectors and what they declare, in their order. Takes time in proportion to the text's length."""
    plain = _without_comments(text)
    rules: list[tuple[str, str]] = []
    at = 0
    while (opened := plain.find("{", at)) >= 0:
        closed = plain.find("}", opened)
        if closed < 0:
            break
        inner = plain.rfind("{", opened, closed)
        begins = max(plain.rfind("}", at, inner), plain.rfind(";", at, inner), plain.rfind("{", at, inner), at - 1) + 1
        body = plain[inner + 1 : closed].strip()
        rules += [(selector.strip(), body) for selector in plain[begins:inner].split(",") if selector.strip()]
        at = closed + 1
    return rules


def write_styles(root: Any) -> None:
    """Write the style sheets of a file into its elements. Raises SvgError where that would grow beyond bounds."""
    result: dict[str, list[tuple[int, str]]] = {}
    order = 0
    for element in root.iter():
        if local_name(element) == "style":
            for selector, body in rules_of("".join(element.itertext())):
                result.setdefault(selector, []).append((order, body))
                order += 1
    if not result:
        return
    written = 0
    for element in root.iter():
        names = [local_name(element), *(f".{name}" for name in element.get("class", "").split()[:50])]
        if element.get("id"):
            names.append(f"#{element.get('id')}")
        matching = [rule for name in dict.fromkeys(names) for rule in result.get(name, ())]
        if not matching:
            continue
        written += sum(len(body) + 1 for _, body in matching)
        if written > MOST_WRITTEN:
            raise SvgError("The style sheet of this SVG file is too large for its elements. Simplify it.")
        element.set("style", ";".join([*(body for _, body in sorted(matching)), element.get("style", "")]))


def declared(element: Any) -> Declarations:
    """What an element's attributes and its style say, the style before the attributes."""
    out = {name: value for name, value in element.attrib.items() if not name.startswith("{")}
    for part in element.get("style", "").split(";"):
        name, mark, value = part.partition(":")
        if mark:
            out[name.strip().lower()] = value.replace("!important", "").strip()
    return out


def _without_comments(text: str) -> str:
    parts, at = [], 0
    while (begins := text.find("/*", at)) >= 0:
        parts.append(text[at:begins])
        ends = text.find("*/", begins + 2)
        if ends < 0:
            return "".join(parts)
        at = ends + 2
    return "".join([*parts, text[at:]])
