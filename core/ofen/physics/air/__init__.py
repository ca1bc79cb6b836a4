"""Air: its density, its moisture, what flows through openings, ducts and a room."""
