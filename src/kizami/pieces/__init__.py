"""The way of a piece: words laid out, built, checked and written, one by one or by the list."""
