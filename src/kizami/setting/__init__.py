"""How one piece is set otherwise than its product."""
