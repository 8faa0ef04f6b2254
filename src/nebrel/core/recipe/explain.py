"""What Pydantic complains of, in the words of those who type numbers."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from nebrel.core.errors import InvalidRecipe, InvalidValue, NebrelError

_UNITS = re.compile(r"(_per)?_(mm2?|g_cm3|kg|deg|px)$")
_HOLDERS = {
    "begins",
    "art",
    "picture",
    "corrections",
    "build_up",
    "pins",
    "fittings",
    "finish",
    "proof",
    "made_with",
    "began",
}
_NAMES = {"wide": "width", "tall": "height", "mm": "", "x": "place across", "y": "place down"}


def explain(complaints: Sequence[Any], exact: bool = False) -> NebrelError:
    """The first complaint of Pydantic (an item of `ValidationError.errors()`) in our words.

    Parameters
    ----------
    exact : name the place as a recipe file writes it, not as a person calls it
    """
    first = complaints[0]
    # Which of a union it is stands in no recipe; nor does the body of a request.
    place = [part for part in first["loc"] if part not in ("body", "relief")]
    what = (".".join(map(str, place)) if exact else _in_words(place)) or "recipe"
    cause = first.get("ctx", {}).get("error")
    if isinstance(cause, NebrelError):
        return cause
    if isinstance(cause, ValueError):
        why, _, remedy = str(cause).partition("; ")
        return InvalidValue(what, why, remedy[:1].upper() + remedy[1:] or "Change it")
    return InvalidRecipe(what, *_why(first))


def _in_words(place: list[Any]) -> str:
    """The place of a field as a person would call it: "crop, box width"."""
    parts = [str(part) for part in place if not isinstance(part, int) and part != "recipe"]
    while len(parts) > 1 and parts[0] in _HOLDERS:
        parts.pop(0)
    words = [_NAMES.get(part, _UNITS.sub("", part).replace("_", " ")) for part in parts]
    words = [word for word in words if word]
    return words[0] + (", " + " ".join(words[1:]) if words[1:] else "") if words else ""


def _why(complaint: Any) -> tuple[str, str]:
    """Why a value is refused, and what would be taken."""
    kind, context = complaint["type"], complaint.get("ctx", {})
    value = complaint.get("input")
    match kind:
        case "greater_than_equal" | "less_than_equal":
            limit = context["ge" if kind == "greater_than_equal" else "le"]
            side = "below" if kind == "greater_than_equal" else "above"
            return f"{value} is {side} {limit:g}", f"The nearest that works is {limit:g}"
        case "greater_than":
            return f"{value} is not above {context['gt']:g}", f"Type more than {context['gt']:g}"
        case "less_than":
            return f"{value} is not below {context['lt']:g}", f"Type less than {context['lt']:g}"
        case "string_too_long" | "too_long":
            most = context["max_length"]
            what = "letters" if kind == "string_too_long" else "of them"
            return f"it has more than {most} {what}", f"Keep at most {most}"
        case "string_too_short" | "too_short":
            least = context["min_length"]
            return "there are too few of them", f"At least {least} is needed"
        case "missing":
            return "it is missing", "Add it"
        case "extra_forbidden":
            return "it is not known here", "Take it out, or update Nebrel"
        case "literal_error" | "enum":
            return f"it is not {context['expected']}", "Choose one of these"
        case "finite_number":
            return "it is not a finite number", "Type a number"
        case "int_from_float":
            return f"{value} is not a whole number", f"The nearest that works is {round(value)}"
    if kind.endswith(("_parsing", "_type")):
        wanted = "a number" if kind.startswith(("float", "int")) else "of the right kind"
        return f"it is not {wanted}", "Correct this field"
    return complaint["msg"].lower(), "Correct this field"
