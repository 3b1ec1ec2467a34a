"""How the load steps of every plate test stand on the sheet and in foreign tables."""

COLUMNS = {
    "steps": ("pump_bar", "force_kn", "held_min", "settlement_mm", "excluded_because"),
    "steps[].readings": ("elapsed_min", "read_at", "a_mm", "b_mm", "c_mm", "d_mm", "noted"),
    "steps[].top_ups": ("from_bar", "from_kn", "topped_at"),
}
ROWS = {"steps": "step", "steps[].readings": "reading", "steps[].top_ups": "topping up", "tins": "tin"}
SYNONYMS = {
    "pump_bar": ("pump", "pressure", "bar"),
    "force_kn": ("load", "force", "kn"),
    "settlement_mm": ("settlement", "settled", "s"),
    "held_min": ("held", "hold", "min"),
    "elapsed_min": ("time", "elapsed"),
    "a_mm": ("gauge a", "a"),
    "b_mm": ("gauge b", "b"),
    "c_mm": ("gauge c", "c"),
    "d_mm": ("gauge d", "d"),
}
