"""The register of all methods, in the order the places show them: the only file that a new method shares."""

from importlib import import_module

from vadum.soil.contract.errors import UnknownName
from vadum.soil.contract.method import Method

NAMES = (
    "water_content",
    "liquid_limit",
    "plastic_limit",
    "sieve",
    "hydrometer",
    "specific_gravity",
    "ring_density",
    "pit_density",
    "compaction",
    "cbr",
    "field_cbr",
    "unconfined_compression",
    "field_vane",
    "direct_shear",
    "triaxial",
    "plate_modulus",
    "plate_bearing",
    "falling_head",
    "well_permeameter",
    "double_ring",
    "retention",
    "lime_demand",
)

METHODS: dict[str, Method] = {name: import_module(f"vadum.soil.methods.{name}").METHOD for name in NAMES}


def method(name: str) -> Method:
    """The method of that name; raises UnknownName."""
    if name not in METHODS:
        raise UnknownName("method", name, tuple(METHODS))
    return METHODS[name]
