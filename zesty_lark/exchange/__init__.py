"""What goes in and out: open formats, read defensively."""
