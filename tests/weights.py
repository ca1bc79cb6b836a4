"""How long the files of tests take on one core, roughly: the long ones begin first, and a quick check knows what fits into its time."""

# Measured alone; a file that is not here takes less than a second or two.
SECONDS: dict[str, float] = {}
USUAL_S = 1.0


def seconds_of(module: str) -> float:
    """Return how long a module of tests takes, by its dotted name."""
    return SECONDS.get(module.removeprefix("tests."), USUAL_S)
