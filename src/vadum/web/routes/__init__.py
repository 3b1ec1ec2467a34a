"""One module per place."""
