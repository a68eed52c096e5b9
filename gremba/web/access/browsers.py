"""Names a browser in a few words, so that people recognize their own in a list."""

from __future__ import annotations

from starlette.requests import HTTPConnection

_BROWSERS = (
    ("edg", "Edge"),
    ("opr/", "Opera"),
    ("firefox/", "Firefox"),
    ("chrom", "Chromium or Chrome"),
    ("safari/", "Safari"),
)
_SYSTEMS = (
    ("android", "Android"),
    ("iphone", "iPhone"),
    ("ipad", "iPad"),
    ("windows", "Windows"),
    ("mac os", "macOS"),
    ("cros", "ChromeOS"),
    ("linux", "Linux"),
)


def browser_name(connection: HTTPConnection) -> str:
    """Names a browser by its User-Agent, such as "Firefox on Linux", or "another program"."""
    told = connection.headers.get("User-Agent", "")[:400].casefold()
    browser = next((name for sign, name in _BROWSERS if sign in told), "")
    system = next((name for sign, name in _SYSTEMS if sign in told), "")
    if not browser:
        return "another program"
    return f"{browser} on {system}" if system else browser
