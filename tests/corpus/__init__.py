"""Made-up lists with the reading of a careful person written down beside every row."""
