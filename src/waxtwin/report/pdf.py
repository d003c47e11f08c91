"""A report's page as PDF, and that PDF as pictures of its pages for the preview."""

from __future__ import annotations

import io
import re
from base64 import b64decode
from collections.abc import Iterator

import numpy as np

_FILE = r"data:([\w/+-]+);base64,([\w+/=]+)"
_TYPE, _PICTURE = re.compile(rf"(url\(){_FILE}"), re.compile(rf'(<img\s[^>]*?src="){_FILE}')


def pdf(page: str) -> bytes:
    """The page as a PDF file; nothing outside the page is ever fetched."""
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    lean, files = _set_aside(page)

    class Inside(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: object = None) -> URLFetcherResponse:
            if url not in files:
                return super().fetch(url, headers)
            kind, data = files[url]
            return URLFetcherResponse(url, data, {"Content-Type": kind})

    out = io.BytesIO()
    HTML(string=lean, url_fetcher=Inside(allowed_protocols=("data",))).write_pdf(out)
    return out.getvalue()


def _set_aside(page: str) -> tuple[str, dict[str, tuple[str, bytes]]]:
    """The page with short names for the type and pictures inside it, and {name: (kind, bytes)}: read letter by letter
    with the words, they took a fifth of the time.
    """
    files: dict[str, tuple[str, bytes]] = {}

    def name(found: re.Match[str]) -> str:
        before, kind, data = found.groups()
        files[f"inside:{len(files)}"] = kind, b64decode(data)
        return f"{before}inside:{len(files) - 1}"

    # words that people typed cannot open a tag, but may look like an address in the style
    head, style, rest = page.partition("<style>")
    style, end, body = (style + rest).partition("</style>")
    return head + _TYPE.sub(name, style) + end + _PICTURE.sub(name, body), files


def sheets(data: bytes, width: int) -> Iterator[np.ndarray]:
    """The PDF's pages as pictures `(height, width, 4)` uint8, blue-green-red-unused."""
    from pypdfium2 import PdfDocument

    document = PdfDocument(data)
    try:
        for page in document:
            picture = page.render(scale=width / page.get_width(), rev_byteorder=False, prefer_bgrx=True)
            yield np.array(picture.to_numpy())
    finally:
        document.close()
