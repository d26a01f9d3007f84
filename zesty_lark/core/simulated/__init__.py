"""A grinder that is nowhere: axes with backlash, a wheel that wears and loads, a part with hidden surfaces, heat."""
