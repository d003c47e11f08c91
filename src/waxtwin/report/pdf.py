"""A report's page as PDF, and that PDF as pictures of its pages for the preview."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np


def pdf(page: str) -> bytes:
    """The page as a PDF file; nothing outside the page is ever fetched."""
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    out = io.BytesIO()
    HTML(string=page, url_fetcher=URLFetcher(allowed_protocols=("data",))).write_pdf(out)
    return out.getvalue()


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
