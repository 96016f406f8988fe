"""Design tokens: the colours and sizes of the look, read from `tokens.toml`, for drawings and papers; and the style sheet made of them.

Not here: patterns of fills (patterns), or how pages are laid out (web/static/css).
"""

import tomllib
from functools import cache
from pathlib import Path

_FILE = Path(__file__).parent / "tokens.toml"
_HEAD = "/* Made from drawing/tokens.toml by `make tokens`: change it there. */\n"


@cache
def _tables() -> dict[str, dict[str, str]]:
    tables: dict[str, dict[str, str]] = tomllib.loads(_FILE.read_text(encoding="utf-8"))
    return tables


def token(name: str) -> str:
    """Return a colour or size of the linen theme, which is also that of everything printed."""
    return next(table[name] for key, table in _tables().items() if key != "glare" and name in table)


def as_css() -> str:
    """Return the tokens as custom properties: those of the linen theme at the root, those of glare where a page asks for it."""
    tables = _tables()
    rooted = {**tables["linen"], **tables["always"], **tables["sizes"]}
    blocks = ((":root", rooted), ('[data-theme="glare"]', tables["glare"]))
    return _HEAD + "".join(f"{where} {{\n{_lines(table)}}}\n" for where, table in blocks)


def _lines(table: dict[str, str]) -> str:
    return "".join(f"  --{name}: {value};\n" for name, value in table.items())


if __name__ == "__main__":
    print(as_css(), end="")
