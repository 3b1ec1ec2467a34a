"""Soil classes from grading and limits, each with the path that led to it."""
