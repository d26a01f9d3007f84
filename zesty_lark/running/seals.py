"""The key that a shop seals its backups with: made once, kept in the home directory, shown once to be written down."""

import re
import secrets
from pathlib import Path

from zesty_lark.exchange import backup_file
from zesty_lark.exchange.backup_file import BackupError
from zesty_lark.files import written_whole

KEY_FILE = "backup.key"
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Letters and figures that are not taken for one another on paper."""
GROUPS, OF = 6, 5
KEY = re.compile(rf"[{LETTERS}]{{{OF}}}(-[{LETTERS}]{{{OF}}}){{{GROUPS - 1}}}")
WHY_A_KEY = (
    "Backups of this shop are sealed from now on, with this key:  {0}",
    "Write it down and keep it elsewhere: on another machine a backup is restored with --key and this key.",
    "The seal proves that nobody has changed a row. The key is not shown again.",
)


def shop_key(home: Path) -> tuple[str, bool]:
    """Return the key of a shop, and whether it was made just now (mode 600).

    Raises
    ------
    BackupError
        If the file with it is damaged.
    """
    file = home / KEY_FILE
    if not file.exists():
        groups = ("".join(secrets.choice(LETTERS) for _ in range(OF)) for _ in range(GROUPS))
        keep_key(home, "-".join(groups))
        return shop_key(home)[0], True
    key = file.read_text("ascii", errors="replace").strip()
    if not KEY.fullmatch(key):
        raise BackupError(f"The key in {file} is damaged. Write the one that was written down into it, or remove it.")
    return key, False


def keep_key(home: Path, key: str) -> None:
    """Make a key the shop's own."""
    home.mkdir(mode=0o700, parents=True, exist_ok=True)
    with written_whole(home / KEY_FILE) as file:
        file.write(f"{key}\n".encode())


def vouch_for(home: Path, file: Path, given: str | None) -> None:
    """Pass silently when a backup was sealed with this shop’s key, or the one that is given, which is the shop’s from
    then on.

    Raises
    ------
    BackupError
        If nobody can vouch for it; the message says why and what to do.
    """
    contents = backup_file.contents_of(file)
    if given is not None:
        key = given.strip().upper()
        if not backup_file.is_sealed(contents, key):
            raise BackupError(f"{file} was not sealed with that key, or was changed since. Nothing was changed.")
        if not (home / KEY_FILE).exists():
            keep_key(home, key)
        return
    if (home / KEY_FILE).exists() and backup_file.is_sealed(contents, shop_key(home)[0]):
        return
    why = "it has no seal" if contents.seal is None else "its seal is not by this shop’s key, or it was changed since"
    raise BackupError(
        f"Nobody can vouch for {file}: {why}. With the key that was written down, restore it with --key; if you know "
        "where it comes from and that nobody has changed it, with --unsealed. Nothing was changed."
    )
