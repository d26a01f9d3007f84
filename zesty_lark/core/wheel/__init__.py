"""The wheel: marking, speed, dressing, wear, grain and balance."""
