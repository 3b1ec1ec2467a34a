"""The register of all methods, in the order the places show them."""

from vadum.soil.contract.errors import UnknownName
from vadum.soil.contract.method import Method
from vadum.soil.methods.cbr import METHOD as CBR
from vadum.soil.methods.compaction import METHOD as COMPACTION
from vadum.soil.methods.field_cbr import METHOD as FIELD_CBR
from vadum.soil.methods.hydrometer import METHOD as HYDROMETER
from vadum.soil.methods.liquid_limit import METHOD as LIQUID_LIMIT
from vadum.soil.methods.pit_density import METHOD as PIT_DENSITY
from vadum.soil.methods.plastic_limit import METHOD as PLASTIC_LIMIT
from vadum.soil.methods.ring_density import METHOD as RING_DENSITY
from vadum.soil.methods.sieve import METHOD as SIEVE
from vadum.soil.methods.specific_gravity import METHOD as SPECIFIC_GRAVITY
from vadum.soil.methods.water_content import METHOD as WATER_CONTENT

METHODS: dict[str, Method] = {
    m.name: m
    for m in (
        WATER_CONTENT,
        LIQUID_LIMIT,
        PLASTIC_LIMIT,
        SIEVE,
        HYDROMETER,
        SPECIFIC_GRAVITY,
        RING_DENSITY,
        PIT_DENSITY,
        COMPACTION,
        CBR,
        FIELD_CBR,
    )
}


def method(name: str) -> Method:
    """The method of that name; raises UnknownName."""
    if name not in METHODS:
        raise UnknownName("method", name, tuple(METHODS))
    return METHODS[name]
