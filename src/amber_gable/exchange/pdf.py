"""PDF from a page of HTML, by WeasyPrint, which fetches nothing from elsewhere."""

from amber_gable.errors import PlanError


def pdf_of(html: str, base_url: str) -> bytes:
    """Return a PDF.

    Parameters
    ----------
    html : str
        With its styles in it.
    base_url : str
        Folder that relative addresses (fonts) are read from.

    Raises
    ------
    PlanError
        If the machine lacks the library that sets text.
    """
    # Imported here: it loads system libraries, and only who prints needs them.
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as fault:
        raise PlanError(
            "Printing needs Pango, which this machine has not. Install it: apt-get install libpango-1.0-0 libpangoft2-1.0-0"
        ) from fault

    fetcher = URLFetcher(allowed_protocols=("file", "data"))
    result: bytes = HTML(string=html, base_url=base_url, url_fetcher=fetcher).write_pdf()
    return result
