"""What the commands in bin/ run beside the application: the house's own linter, and which tests a change can reach."""
