"""Sheets as PDF, laid out from the same HTML and styles as the page that prints them."""

from collections.abc import Callable
from typing import Any


def sheet_pdf(html: str, *, fetch: Callable[[str], tuple[bytes, str]]) -> bytes:
    """Return a sheet as PDF.

    Parameters
    ----------
    html : str
        The sheet's whole page.
    fetch : callable
        Given an address on the page (a style, a font), returns its bytes and its type; only those are read,
        never the network.

    Raises
    ------
    LookupError
        If ``fetch`` does not know an address.
    """
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class OwnFilesOnly(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            body, kind = fetch(url)
            return URLFetcherResponse(url, body, {"Content-Type": kind})

    pdf: bytes = HTML(string=html, base_url="sheet://sheet/", url_fetcher=OwnFilesOnly()).write_pdf()
    return pdf
