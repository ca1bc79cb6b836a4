"""A drawing in a page: an image that says what it shows."""

import base64
import re

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

register = template.Library()
SAYS = re.compile(r'aria-label="([^"]*)"')


@register.filter
def drawing(svg: str, name: str = "") -> SafeString:
    """Return a drawing of the core as an image of this class, nothing where there is none."""
    if not svg:
        return SafeString("")
    match = SAYS.search(svg)
    source = "data:image/svg+xml;base64," + base64.b64encode(svg.encode()).decode()
    # What the core says of it is escaped already.
    return format_html('<img class="{}" alt="{}" src="{}">', name, SafeString(match[1] if match else "Drawing"), source)
