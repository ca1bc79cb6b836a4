"""Where the fuel comes from and how it gets there: storage, pipes, regulators, liquid lines, the night ahead."""
