"""The science: records, schools, reductions, checks and advice. No I/O, no clock, no interface."""
