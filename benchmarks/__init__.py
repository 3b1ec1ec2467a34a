"""Measurements: printed, never asserted."""
