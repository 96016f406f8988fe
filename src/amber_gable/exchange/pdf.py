"""PDF from a page of HTML, by WeasyPrint, which fetches nothing from elsewhere."""


def pdf_of(html: str, base_url: str) -> bytes:
    """Return a PDF.

    Parameters
    ----------
    html : str
        With its styles in it.
    base_url : str
        Folder that relative addresses (fonts) are read from.
    """
    # Imported here: it loads system libraries, and only who prints needs them.
    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    fetcher = URLFetcher(allowed_protocols=("file", "data"))
    result: bytes = HTML(string=html, base_url=base_url, url_fetcher=fetcher).write_pdf()
    return result
