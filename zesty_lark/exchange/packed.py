"""Looking into a packed file before anything of it is unpacked."""

import io
import zipfile

MOST_MEMBERS = 200
MOST_UNPACKED = 48 * 1024 * 1024
"""What a packed file may grow to [bytes]."""


class PackedError(ValueError):
    """The file is no packed one, or is not to be unpacked; the message says why."""


def check_packed(data: bytes) -> list[zipfile.ZipInfo]:
    """Return what a packed file says it holds.

    Raises
    ------
    PackedError
        If it is no such file, or would grow beyond all measure.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            members = packed.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise PackedError("This is not a packed file that can be read.") from error
    if len(members) > MOST_MEMBERS or sum(member.file_size for member in members) > MOST_UNPACKED:
        raise PackedError(f"This file would unpack to more than {MOST_UNPACKED // 1024**2} MB: it is not read.")
    return members


def member(data: bytes, name: str) -> bytes:
    """Return one part of a packed file, never more of it than is allowed, whatever it says of its size.

    Raises
    ------
    PackedError
        If there is no such part, it is packed in a way that is not read, or it is too big or damaged.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed, packed.open(name) as part:
            read = part.read(MOST_UNPACKED + 1)
    except KeyError as error:
        raise PackedError(f"The file has no {name}.") from error
    except (zipfile.BadZipFile, OSError, ValueError, EOFError, NotImplementedError, RuntimeError) as error:
        raise PackedError(f"{name} in the file is damaged, or cannot be read.") from error
    except Exception as error:  # zlib.error and its kin have no common ancestor
        raise PackedError(f"{name} in the file is damaged.") from error
    if len(read) > MOST_UNPACKED:
        raise PackedError(f"{name} in the file is too big.")
    return read
