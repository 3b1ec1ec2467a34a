"""The root of every error that Vadum raises on purpose; each carries its data and says it in one sentence."""


class VadumError(Exception):
    """Something the person can act on."""


class ReductionError(VadumError):
    """A quantity that cannot be computed from readings that were well formed."""

    def __init__(self, quantity: str, seen: str, needs: str, at: str = "") -> None:
        self.quantity, self.seen, self.needs, self.at = quantity, seen, needs, at
        where = f" at {at}" if at else ""
        super().__init__(f"{quantity} cannot be computed{where}: {seen}; needs {needs}")


class FieldError(VadumError):
    """Input that is malformed; names the field."""

    def __init__(self, field: str, problem: str) -> None:
        self.field, self.problem = field, problem
        super().__init__(f"{field}: {problem}")


class UnknownName(VadumError):
    """A method, school or other named thing that does not exist."""

    def __init__(self, kind: str, name: str, known: tuple[str, ...]) -> None:
        self.kind, self.name, self.known = kind, name, known
        super().__init__(f"{kind}: there is no {name!r}; known: {', '.join(known)}")
