"""From an instrument's samples to readings on a tape: what is taken, missed or spoilt, and what is kept raw."""
