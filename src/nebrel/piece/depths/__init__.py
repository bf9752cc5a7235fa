"""How near everything in a picture is, as documents ask for it: sources, what is drawn by hand, networks, services."""
