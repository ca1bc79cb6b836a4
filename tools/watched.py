"""Which changed files start the server of bin/dev again."""

from watchfiles import Change, DefaultFilter


class Sources(DefaultFilter):
    """Python and the tables and templates that it reads."""

    def __call__(self, change: Change, path: str) -> bool:
        """Return whether a changed file counts."""
        return path.endswith((".py", ".toml", ".csv", ".html", ".css", ".sql")) and super().__call__(change, path)
