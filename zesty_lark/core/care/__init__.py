"""Looking after the machines: what is due, the coolant, the warm-up."""
