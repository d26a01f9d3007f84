"""What the shop owns: machines, wheels, chucks, fixtures and gauges, and the wheels' log."""
