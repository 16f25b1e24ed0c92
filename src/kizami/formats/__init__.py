"""Open file formats, written to bytes. The same input gives the same bytes."""
