"""The demonstration: a lighthouse's lens carriage in a toolroom. All of it is invented."""
