"""The job as built: its machines with their sheets, its ways of fuel and power, and what every instrument reads on them."""
