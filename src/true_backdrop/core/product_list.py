"""A product list as people paste it: code, name, material; commas, semicolons or tabs; header or none."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from true_backdrop.core.treatment import MATERIALS, Material

_HEADINGS = {
    "code": {"code", "sku", "product code", "item", "item code", "article"},
    "name": {"name", "product", "title", "product name", "description"},
    "material": {"material", "kind"},
}


@dataclass(frozen=True, slots=True)
class ListedProduct:
    code: str
    name: str
    material: Material


@dataclass(frozen=True, slots=True)
class ProductList:
    """The products that could be read, and a sentence for every line that could not."""

    products: tuple[ListedProduct, ...]
    problems: tuple[str, ...]


def parse_product_list(text: str) -> ProductList:
    """Read a pasted or dropped list. Bad lines are named and left out; the others are kept."""
    rows = [row for row in _rows(text.lstrip("\ufeff")) if any(cell.strip() for cell in row[1])]
    columns = {"code": 0, "name": 1, "material": 2}
    if rows and (headed := _heading(rows[0][1])):
        columns, rows = headed, rows[1:]
    products: dict[str, ListedProduct] = {}
    problems: list[str] = []
    for line, row in rows:
        cell = {field: row[at].strip() if at < len(row) else "" for field, at in columns.items()}
        problem = _problem(cell, products)
        if problem:
            problems.append(f"line {line}: {problem}")
            continue
        products[cell["code"].lower()] = ListedProduct(cell["code"], cell["name"] or cell["code"], _material(cell["material"]))
    return ProductList(tuple(products.values()), tuple(problems))


def _rows(text: str) -> list[tuple[int, list[str]]]:
    first = next((line for line in text.splitlines() if line.strip()), "")
    mark = max("\t;,", key=first.count)
    reader = csv.reader(io.StringIO(text), delimiter=mark)
    return [(reader.line_num, row) for row in reader]


def _heading(row: list[str]) -> dict[str, int] | None:
    cells = [cell.strip().lower() for cell in row]
    found = {field: i for field, words in _HEADINGS.items() for i, cell in enumerate(cells) if cell in words}
    return {"name": 999, "material": 999, **found} if "code" in found else None


def _problem(cell: dict[str, str], seen: dict[str, ListedProduct]) -> str | None:
    if not cell["code"]:
        return "no product code"
    if len(cell["code"]) > 60:
        return f"the code {cell['code'][:20]!r}... has more than 60 characters"
    if len(cell["name"]) > 200:
        return f"the name of {cell['code']} has more than 200 characters"
    if cell["code"].lower() in seen:
        return f"the code {cell['code']} stands in the list twice; the first one is kept"
    if cell["material"] and cell["material"].lower() not in MATERIALS:
        return f"{cell['code']}: material {cell['material']!r} is not known; use {', '.join(MATERIALS)}"
    return None


def _material(text: str) -> Material:
    return next((m for m in MATERIALS if m == text.lower()), "auto")
