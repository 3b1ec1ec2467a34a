"""The one hasher of pass-phrases: argon2 with the library's recommended cost."""

from functools import cache

from pwdlib import PasswordHash


@cache
def hasher() -> PasswordHash:
    """Made once; making it imports the hashing library."""
    return PasswordHash.recommended()
