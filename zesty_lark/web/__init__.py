"""What people see: one package a station, in the order of the work; what they share is in ``web.shared``."""
