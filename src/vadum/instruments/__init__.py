"""Instruments: one transport, parsing profiles, stations that listen, and simulated ones that ship with the program."""
