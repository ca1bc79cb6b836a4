"""What the place asks: heat, and power."""
