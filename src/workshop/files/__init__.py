"""Every file that the shop keeps, once, by what is in it."""
