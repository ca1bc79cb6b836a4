"""Stand-ins for instruments: they show what the plant of a job would show, with noise, drift, warm-up and faults that can be set."""
