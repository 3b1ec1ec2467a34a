"""One folder per method, always the same rooms."""
