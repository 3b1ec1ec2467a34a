"""What several methods share: water by tin, the oven, phases, grading, plasticity, bearing, water's properties."""
