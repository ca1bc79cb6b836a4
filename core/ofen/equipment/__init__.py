"""Which machines do it: heaters, generators, and the ranking of each."""
