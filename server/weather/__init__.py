"""The weather ahead: a forecast for each job, fetched from a provider."""
