"""Who works in the toolroom at Brindle Quay."""

from zesty_lark.store.models.people import Role

PASSWORD = "tern-rock-light"

PEOPLE = (
    ("bryn", "Bryn Tallow", Role.MACHINIST),
    ("isa", "Isa Quillon", Role.LEAD),
    ("pell", "Pell Harrow", Role.INSPECTOR),
    ("nim", "Nim Sedge", Role.APPRENTICE),
    ("odo", "Odo Marram", Role.MACHINIST),
)


def sign_ins() -> list[str]:
    """Return the lines that tell how to sign in."""
    listed = ", ".join(f"{sign_in} ({role.value})" for sign_in, _, role in PEOPLE)
    return [f"sign in as {listed}; the password is {PASSWORD}"]
