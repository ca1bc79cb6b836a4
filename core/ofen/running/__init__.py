"""The log of a job: entries, what they come to, what is due, the stop order, and the fault finder."""
