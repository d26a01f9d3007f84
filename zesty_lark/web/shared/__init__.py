"""What the stations share: the guard at the door, the request's database session, units, drawings, the frame."""
