"""Instruments on real sockets."""
