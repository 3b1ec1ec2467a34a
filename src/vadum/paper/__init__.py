"""Sheets and open formats."""
