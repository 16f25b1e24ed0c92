"""What the shop sells, and the products file that says so."""
