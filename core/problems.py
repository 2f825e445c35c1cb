"""The one kind of error that core raises on purpose."""


class InputProblem(ValueError):
    """What was given cannot be used. The text says what is wrong and what to do, for a person to read."""
