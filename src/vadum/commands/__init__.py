"""The command line's verbs, by what they are about."""
