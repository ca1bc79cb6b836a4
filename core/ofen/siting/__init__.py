"""Where it all stands: clearances, air, ducts, leads, exhaust, and the drawing of the site."""
