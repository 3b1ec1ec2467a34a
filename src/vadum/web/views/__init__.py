"""What pages show, made from records and outcomes."""
