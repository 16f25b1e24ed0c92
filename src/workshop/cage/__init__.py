"""Where files from outside are read: in a process of their own, that may take so much and no more."""
