"""How a value and a judgement are told: errors, rounding, quantities with their units, figures with their working, verdicts, reports."""
