"""What the shop's own words are: what others call its things, and what means nothing."""
