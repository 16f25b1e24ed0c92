"""From an order list as received to clean wording: reading rows, cleaning words."""
