"""What is stored: the tape, the people, the ground and the kit."""
