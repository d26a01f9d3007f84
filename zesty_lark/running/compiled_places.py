"""Where each compiled function lies in the folder that they are kept in: by its place in the application, so that what
one copy of the application compiled, another of the same sources can use, wherever it lies.
"""

from pathlib import Path

from numba.core.caching import UserProvidedCacheLocator

APPLICATION = Path(__file__).resolve().parents[1]


class ByPlace(UserProvidedCacheLocator):
    """Numba's own way with a folder that was named to it, but for the name of the folder inside."""

    @classmethod
    def get_suitable_cache_subpath(cls, py_file: str) -> str:
        """Return the name of a source's folder: that of its room, such as ``core.planning``."""
        room = Path(py_file).resolve().parent
        if not room.is_relative_to(APPLICATION):
            return str(super().get_suitable_cache_subpath(py_file))  # type: ignore[no-untyped-call]
        return ".".join(room.relative_to(APPLICATION).parts)
