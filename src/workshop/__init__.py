"""The web application: the Order book and the Bench over the core."""
