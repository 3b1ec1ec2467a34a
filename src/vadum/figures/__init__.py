"""One picture per method, the same on the screen and on paper."""
