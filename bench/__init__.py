"""What bin/bench measures."""
