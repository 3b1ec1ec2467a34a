"""The register of all methods, in the order the places show them."""

from vadum.soil.errors import UnknownName
from vadum.soil.method import Method
from vadum.soil.methods.liquid_limit import METHOD as LIQUID_LIMIT
from vadum.soil.methods.plastic_limit import METHOD as PLASTIC_LIMIT
from vadum.soil.methods.water_content import METHOD as WATER_CONTENT

METHODS: dict[str, Method] = {m.name: m for m in (WATER_CONTENT, LIQUID_LIMIT, PLASTIC_LIMIT)}


def method(name: str) -> Method:
    """The method of that name; raises UnknownName."""
    if name not in METHODS:
        raise UnknownName("method", name, tuple(METHODS))
    return METHODS[name]
