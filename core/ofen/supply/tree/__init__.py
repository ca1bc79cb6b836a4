"""The joints of a path."""
