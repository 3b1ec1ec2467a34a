"""Vadum: a bench companion for geotechnical soils technicians."""
