"""What a file is, by its content: its name is only what somebody called it.

Signatures: ZIP (APPNOTE 6.3.10, 4.3.7), SQLite (sqlite.org/fileformat.html), JPEG (ITU T.81, B.1.1.3), PNG (W3C PNG, 5.2),
WebP (RFC 9649, 2.4). XML is KML only where its first element says so; JSON is GeoJSON only where it begins as an object.
"""

from __future__ import annotations

import re
from typing import Literal

Kind = Literal["geojson", "kml", "geopackage", "zip", "jpeg", "png", "webp", "text", "unknown"]
HEAD_BYTES = 4_096
_XML_HEAD = re.compile(rb"^(?:\s|<\?xml[^>]{0,200}\?>|<!--.{0,2000}?-->)*<(?:[A-Za-z_][\w.-]{0,20}:)?kml[\s>]", re.DOTALL)


def kind_of(head: bytes) -> Kind:
    """The kind of a file by its first bytes."""
    if head.startswith((b"PK\x03\x04", b"PK\x05\x06")):
        return "zip"
    if head.startswith(b"SQLite format 3\x00"):
        return "geopackage"
    if head.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if head.startswith(b"\x89PNG\r\n\x1a\n"):
        return "png"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "webp"
    words = head.removeprefix(b"\xef\xbb\xbf")
    if _XML_HEAD.match(words):
        return "kml"
    if words.lstrip()[:1] == b"{":
        return "geojson"
    if b"\x00" in head or words.lstrip()[:1] == b"<":
        return "unknown"
    return "text"
