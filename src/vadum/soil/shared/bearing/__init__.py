"""What the two bearing ratios share: the curve, its zero, the ring, the calling of readings, the ratio that governs."""
