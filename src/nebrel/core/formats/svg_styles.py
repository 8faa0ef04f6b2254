"""What the style sheets, attributes and own styles of an SVG say of its elements."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any

Said = dict[str, str]
"""Properties by name, as they are written."""

INHERITED = frozenset(
    {
        "clip-rule",
        "color",
        "fill",
        "fill-opacity",
        "fill-rule",
        "marker-end",
        "marker-mid",
        "marker-start",
        "stroke",
        "stroke-dasharray",
        "stroke-dashoffset",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-opacity",
        "stroke-width",
        "visibility",
    }
)
"""Properties that hold for what lies within, too."""

# Attributes that a style may say, too; it goes before them.
_ATTRIBUTES = INHERITED | {
    "clip-path",
    "display",
    "font-size",
    "mask",
    "mask-type",
    "opacity",
    "overflow",
    "transform",
    "vector-effect",
}
_SHOWN_ON = ("all", "screen", "print")
# What changes nothing of what is drawn.
_IDLE = frozenset({"charset", "font-face", "keyframes", "namespace", "page"})


def said_of(tree: Any) -> tuple[dict[Any, Said], list[str]]:
    """The properties of each element that has some, and notes of what was not understood.

    Source: CSS Cascading and Inheritance Level 3: important before specific before late.
    """
    from cssselect2 import ElementWrapper, Matcher

    matcher, unknown, ruled = Matcher(), Counter[str](), False
    for sheet in tree.iter():
        is_sheet = str(sheet.tag).rsplit("}", 1)[-1] == "style"
        if is_sheet and sheet.text and _holds(sheet.get("media", ""), unknown):
            for selector, declarations in _rules(sheet.text, unknown):
                matcher.add_selector(selector, declarations)
                ruled = True
    found: dict[Any, Said] = {}
    wrapped = ElementWrapper.from_xml_root(tree).iter_subtree() if ruled else tree.iter()
    for one in wrapped:
        element = one.etree_element if ruled else one
        said = {name: element.get(name) for name in _ATTRIBUTES & element.attrib.keys()}
        text = element.get("style")
        own = _declared(text, unknown) if text else []
        rules = matcher.match(one) if ruled else []
        matched = [*(match[-1] for match in rules if match[2] is None), own]
        for important in (False, True):
            for declarations in matched:
                said |= {name: value for name, value, first in declarations if first == important}
        if said:
            found[element] = said
    notes = [f"{what} in its styles is not understood" for what in sorted(unknown)[:5]]
    return found, notes


Declarations = list[tuple[str, str, bool]]
"""Name, value, and whether it is important."""


def _rules(text: str, unknown: Counter[str]) -> Iterator[tuple[Any, Declarations]]:
    """The selectors of a style sheet with what they say."""
    import tinycss2
    from cssselect2 import SelectorError, compile_selector_list

    pending = tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)
    while pending:
        rule = pending.pop(0)
        if rule.type == "qualified-rule":
            try:
                selectors = compile_selector_list(rule.prelude)
            except SelectorError:
                unknown[f"“{tinycss2.serialize(rule.prelude).strip()[:40]}”"] += 1
                continue
            declarations = _declared(rule.content, unknown)
            yield from ((selector, declarations) for selector in selectors)
        elif rule.type == "at-rule" and rule.lower_at_keyword == "media":
            where = tinycss2.serialize(rule.prelude)
            if rule.content is not None and _holds(where, unknown):
                # In the place where it stands: what comes later goes before.
                pending[:0] = tinycss2.parse_rule_list(
                    rule.content, skip_comments=True, skip_whitespace=True
                )
        elif rule.type == "at-rule" and rule.lower_at_keyword.strip("-") not in _IDLE:
            unknown[f"“@{rule.lower_at_keyword[:20]}”"] += 1
        elif rule.type == "error":
            unknown[f"a rule ({rule.message[:40]})"] += 1


def _holds(media: str, unknown: Counter[str]) -> bool:
    """Whether what is said for these media is said for a drawing."""
    if not media.strip():
        return True
    for query in media.lower().split(","):
        words = [word for word in query.split() if word != "only"]
        if "(" in query:
            unknown[f"“@media {query.strip()[:40]}”"] += 1
        elif words[:1] == ["not"]:
            if not set(words[1:]) & set(_SHOWN_ON):
                return True
        elif set(words) & set(_SHOWN_ON):
            return True
    return False


def _declared(content: Any, unknown: Counter[str]) -> Declarations:
    import tinycss2

    found = []
    for one in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if one.type == "declaration":
            value = tinycss2.serialize(one.value).strip()
            found.append((one.lower_name, value, bool(one.important)))
        elif one.type == "error":
            unknown[f"a property ({one.message[:40]})"] += 1
    return found
