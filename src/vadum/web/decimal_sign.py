"""The decimal sign of a whole page: what is read between the tags is written with it, what a program reads is not."""

import re

from vadum.soil.contract.shown_units import in_decimals

_PIECES = re.compile(r"(<script\b.*?</script>|<style\b.*?</style>|<code\b.*?</code>|<[^>]*>)", re.S)


def page_in_decimals(html: str, sign: str) -> str:
    """A page or a fragment of one with its figures written with the sign.

    >>> page_in_decimals('<p data-value="41.2">41.2 g</p><script>x = 1.5</script>', ",")
    '<p data-value="41.2">41,2 g</p><script>x = 1.5</script>'
    """
    if sign == ".":
        return html
    pieces = _PIECES.split(html)
    pieces[::2] = [in_decimals(text, sign) for text in pieces[::2]]
    return "".join(pieces)
