"""Bodies with lettering: engraving and raising, by guaranteed-manifold booleans."""
