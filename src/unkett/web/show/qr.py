"""A small code to scan, as inline SVG."""

from __future__ import annotations

import segno
from django.utils.safestring import SafeString


def qr_code(text: str) -> SafeString:
    """Return the code of a short text, its quiet zone with it."""
    made = segno.make(text, error="m", micro=False)
    return SafeString(
        made.svg_inline(scale=3, border=2, dark="#24211b", omitsize=True, svgclass="qr", lineclass=None)
    )
