"""Due moments over all runs in hand."""
