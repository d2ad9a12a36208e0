"""What every operation refuses before it looks: signs that are no text, numbers and days that no field has."""

from __future__ import annotations

import json
import math
import re
from typing import Any

from apps.base.untrusted_text import first_bad_sign
from cultrix_core.errors import Refusal
from django.http import HttpRequest
from django.utils.datastructures import MultiValueDict
from ninja.errors import HttpError
from ninja.parser import Parser

MOST_WHOLE = 2**53  # whole numbers beyond are not the same in JSON and in the database
DEEPEST = 40
EARLIEST, LATEST = 1900, 2200
_DAY = re.compile(r"(\d{4,6})-\d{2}-\d{2}([T ].{0,40})?")
_WHOLE = re.compile(r"[+-]?\d{16,}")


class Edge(Parser):
    """Bodies, queries and forms as they come, checked whole."""

    def parse_body(self, request: HttpRequest) -> dict[str, Any]:
        try:
            body: dict[str, Any] = json.loads(request.body, parse_constant=_no_number)
        except (ValueError, RecursionError) as error:
            if isinstance(error, Refusal):
                raise
            raise HttpError(400, "What was sent cannot be read. Load the page again; what you typed is kept.") from error
        check(body)
        return body

    def parse_querydict(self, data: MultiValueDict[str, Any], list_fields: list[str], request: HttpRequest) -> dict[str, Any]:
        for key in data:
            for value in data.getlist(key):
                if not isinstance(value, str):  # a file: what is in it is looked at by whoever takes it in
                    continue
                check(value, key)
                if _WHOLE.fullmatch(value) and abs(int(value[:400])) > MOST_WHOLE:
                    raise _absurd(key, value)
        result: dict[str, Any] = super().parse_querydict(data, list_fields, request)
        return result


def _no_number(name: str) -> None:
    raise Refusal("not_finite", field="body", value=name)


def _absurd(field: str, value: object) -> Refusal:
    return Refusal("not_finite", field=field, value=f"{str(value)[:12]}…")


def _check_text(value: str, field: str) -> None:
    bad = first_bad_sign(value)
    if bad is not None:
        raise Refusal("no_text", field=field, value=f"U+{ord(bad):04X}")
    day = _DAY.fullmatch(value)
    if day is not None and not EARLIEST <= int(day[1]) <= LATEST:
        raise Refusal("no_day", field=field, value=value[:10], limit=f"{EARLIEST} and {LATEST}")


def check(value: Any, field: str = "body", depth: int = 0) -> None:
    """Refuse what no text, number or day of a trial is; walks into lists and objects.

    Raises
    ------
    Refusal : ``no_text``, ``not_finite`` or ``no_day`` with the field; ``too_large`` where it is nested too deep.
    """
    if isinstance(value, str):
        _check_text(value, field)
    elif isinstance(value, bool) or value is None:
        return
    elif isinstance(value, int):
        if abs(value) > MOST_WHOLE:
            raise Refusal("not_finite", field=field, value="a number of more than 15 digits")
    elif isinstance(value, float):
        if not math.isfinite(value):
            raise Refusal("not_finite", field=field, value=value)
    elif depth >= DEEPEST:
        raise Refusal("too_large", field=field, label="Depth of what was sent", value=depth + 1, limit=DEEPEST)
    elif isinstance(value, dict):
        for key, item in value.items():
            check(key, field, depth + 1)
            check(item, key, depth + 1)
    else:
        for item in value:
            check(item, field, depth + 1)
