"""A loaded plate: what strain modulus and bearing by plate share."""
