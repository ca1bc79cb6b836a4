"""The fault finder: from what one notices to its causes, each with its check, and those the plan and the readings rule out."""
