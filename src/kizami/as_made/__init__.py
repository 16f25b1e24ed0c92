"""What will really stand or be cut: the one description that builder, checks, drawings and files take."""
