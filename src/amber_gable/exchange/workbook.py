"""Take-off and price as a workbook whose formulas go on living: change an area or a rate, and the price follows.

Each formula carries the value that the application found, so that a viewer which does not reckon shows it too.
What is solved exactly (which cans are cheapest) stands as a value.
"""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from amber_gable.core.knowledge import Money, Practice
from amber_gable.core.price.price import Price
from amber_gable.core.systems.work import Work
from amber_gable.core.takeoff.days import Days
from amber_gable.core.takeoff.lots import Lot
from amber_gable.core.takeoff.sundries import SundryLine
from amber_gable.units import in_both


@dataclass(frozen=True)
class Bill:
    """All that a workbook holds of a job; hours as (part, step, work)."""

    job: str
    lots: Sequence[Lot]
    sundries: Sequence[SundryLine]
    hours: Sequence[tuple[str, str, Work]]
    days: Days
    hire: float
    price: Price
    money: Money
    practice: Practice


class _Sheets:
    """The workbook under construction: sheets by name, rows one under the other."""

    def __init__(self, book: Any, bill: Bill) -> None:
        self.book, self.bill = book, bill
        self.bold = book.add_format({"bold": True, "bottom": 1})
        self.money = book.add_format({"num_format": "#,##0.00"})
        self.litres = book.add_format({"num_format": "0.000"})
        self.names: dict[str, str] = {}

    def sheet(self, name: str, head: Sequence[str], widths: Sequence[float]) -> Any:
        made = self.book.add_worksheet(name)
        made.write_row(0, 0, head, self.bold)
        made.freeze_panes(1, 0)
        for column, width in enumerate(widths):
            made.set_column(column, column, width)
        return made


def workbook(bill: Bill) -> bytes:
    """Return the workbook as the bytes of an .xlsx file."""
    # Imported here: only who writes a workbook waits for it.
    from xlsxwriter import Workbook

    out = io.BytesIO()
    book = Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    book.set_properties({"title": f"Take-off and price: {bill.job}", "author": "Amber Gable"})
    sheets = _Sheets(book, bill)
    _rates(sheets)
    _paint(sheets)
    _cans(sheets)
    _lots(sheets)
    _sundries(sheets)
    _hours(sheets)
    _price(sheets)
    book.close()
    return out.getvalue()


def _rates(sheets: _Sheets) -> None:
    money, practice, days = sheets.bill.money, sheets.bill.practice, sheets.bill.days
    rows = [(name, getattr(money, name)) for name in (
        "labour_per_h", "markup_pct", "overhead_pct", "margin_pct", "tax_pct", "rounding", "disposal", "deposit_pct", "halfway_pct",
    )]  # fmt: skip
    rows += [(name, getattr(practice, name)) for name in ("reserve_pct", "reserve_least_l", "day_h", "setup_h", "weather_slack_pct")]
    rows += [("painters", days.painters), ("ladder_h", days.ladder_h), ("hire", sheets.bill.hire)]
    sheet = sheets.sheet("Rates", ("Rate", "Value"), (24, 14))
    for row, (name, value) in enumerate(rows, start=1):
        sheet.write_string(row, 0, name)
        sheet.write_number(row, 1, value)
        sheets.names[name] = f"Rates!$B${row + 1}"


_PAINT = (
    "Part", "Coat", "Product", "Colour", "Lot", "Area m2", "Profile", "Texture", "Suction", "Spread m2/L", "Loss %", "Wind %", "Wear %",
    "Litres",
)  # fmt: skip


def _paint(sheets: _Sheets) -> None:
    sheet = sheets.sheet("Paint", _PAINT, (26, 26, 30, 10, 34, 10, 8, 8, 8, 11, 7, 7, 7, 10))
    row = 0
    for lot in sheets.bill.lots:
        for line in lot.lines:
            row += 1
            paint, n = line.paint, row + 1
            sheet.write_row(row, 0, (line.part_name, line.label, lot.product.name, lot.colour, lot.key))
            figures = (paint.area_m2, paint.profile, paint.texture, paint.suction, paint.spread_m2_per_l)
            sheet.write_row(row, 5, (*figures, paint.loss_pct, paint.wind_pct, paint.wear_pct))
            formula = f"=F{n}*G{n}*H{n}*I{n}/J{n}/(1-K{n}/100)/(1-L{n}/100)*(1+M{n}/100)"
            sheet.write_formula(row, 13, formula, sheets.litres, line.litres)


_CANS = ("Lot", "Container", "Litres each", "Price each", "Count", "Litres", "Price")


def _cans(sheets: _Sheets) -> None:
    sheet = sheets.sheet("Cans", _CANS, (34, 14, 11, 11, 8, 10, 10))
    row = 0
    for lot in sheets.bill.lots:
        for size, count in lot.packs.counts if lot.packs else ():
            row += 1
            n = row + 1
            sheet.write_row(row, 0, (lot.key, size.name, size.litres, size.price, count))
            sheet.write_formula(row, 5, f"=C{n}*E{n}", sheets.litres, size.litres * count)
            sheet.write_formula(row, 6, f"=D{n}*E{n}", sheets.money, size.price * count)


_LOTS = ("Lot", "Product", "Colour", "Litres", "Kept for touching up", "Reserve", "In stock", "To buy", "Bought", "Left over", "Price")


def _lots(sheets: _Sheets) -> None:
    sheet = sheets.sheet("Lots", _LOTS, (34, 30, 10, 10, 10, 10, 10, 10, 10, 10, 10))
    names = sheets.names
    for row, lot in enumerate(sheets.bill.lots, start=1):
        n = row + 1
        bought = lot.packs.litres if lot.packs else 0.0
        sheet.write_row(row, 0, (lot.key, lot.product.name, lot.colour))
        sheet.write_formula(row, 3, f"=SUMIFS(Paint!$N$2:$N$999,Paint!$E$2:$E$999,A{n})", sheets.litres, lot.litres)
        sheet.write_number(row, 4, int(lot.is_kept))
        reserve = f"=IF(E{n}=1,MAX(D{n}*{names['reserve_pct']}/100,{names['reserve_least_l']}),0)"
        sheet.write_formula(row, 5, reserve, sheets.litres, lot.reserve_l)
        sheet.write_number(row, 6, lot.stock_l, sheets.litres)
        sheet.write_formula(row, 7, f"=ROUNDUP(ROUND(MAX(D{n}+F{n}-G{n},0),9),3)", sheets.litres, lot.need_l)
        sheet.write_formula(row, 8, f"=SUMIFS(Cans!$F$2:$F$999,Cans!$A$2:$A$999,A{n})", sheets.litres, bought)
        sheet.write_formula(row, 9, f"=I{n}-H{n}", sheets.litres, bought - lot.need_l)
        sheet.write_formula(row, 10, f"=SUMIFS(Cans!$G$2:$G$999,Cans!$A$2:$A$999,A{n})", sheets.money, lot.price)


_SUNDRIES = ("What", "Buy", "Counted", "One is enough for", "Count", "Price each", "Price")


def _sundries(sheets: _Sheets) -> None:
    sheet = sheets.sheet("Sundries", _SUNDRIES, (36, 34, 10, 14, 8, 10, 10))
    for row, s in enumerate(sheets.bill.sundries, start=1):
        n = row + 1
        sheet.write_row(row, 0, (in_both(s.label), s.buy, s.counted, s.basis))
        if s.group == "uses":
            sheet.write_formula(row, 4, f"=ROUNDUP(ROUND(C{n}/D{n},9),0)", None, s.count)
        else:
            sheet.write_number(row, 4, s.count)
        # What is ours already is carried and not paid for.
        sheet.write_number(row, 5, s.price / s.count if s.count else 0.0, sheets.money)
        sheet.write_formula(row, 6, f"=ROUND(E{n}*F{n},2)", sheets.money, round(s.price, 2))


def _hours(sheets: _Sheets) -> None:
    sheet = sheets.sheet("Hours", ("Part", "Step", "Amount", "Of", "An hour", "Height", "Hours"), (26, 36, 10, 10, 10, 8, 10))
    for row, (part, step, work) in enumerate(sheets.bill.hours, start=1):
        n = row + 1
        sheet.write_row(row, 0, (part, in_both(step), work.amount, work.of))
        if work.rate:
            sheet.write_row(row, 4, (work.rate, work.height))
            sheet.write_formula(row, 6, f"=C{n}/E{n}*F{n}", None, work.hours)
        else:
            sheet.write_number(row, 6, work.hours)


def _price(sheets: _Sheets) -> None:
    bill, r = sheets.bill, sheets.names
    days, price = bill.days, bill.price
    amount = {line.key: float(line.amount) for line in price.lines}
    left_h = f"MAX({r['day_h']}-{r['setup_h']},0.25)"
    bare = f"({{direct}}+{{overhead}})/(1-{r['margin_pct']}/100)"
    # Row by row: label, formula (the sheet's own rows by {name}), value.
    rows: list[tuple[str, str, str, float]] = [
        ("work", "Hours of work", "=SUM(Hours!$G$2:$G$9999)", days.work_h),
        ("slack", "Lost to weather", f"=({{work}}+{r['ladder_h']})*{r['weather_slack_pct']}/100", days.slack_h),
        ("days", "Days", f"=ROUNDUP(ROUND(({{work}}+{r['ladder_h']}+{{slack}})/({left_h}*{r['painters']}),9),0)", days.days),
        ("setup", "Set-up and clean-up", f"={{days}}*{r['setup_h']}*{r['painters']}", days.setup_h),
        ("hours", "Hours", f"=ROUND({{work}}+{r['ladder_h']}+{{slack}}+{{setup}},2)", round(days.hours, 2)),
        ("paint", "Paint", "=ROUND(SUM(Lots!$K$2:$K$999),2)", amount["paint"]),
        ("sundries", "Sundries", "=ROUND(SUM(Sundries!$G$2:$G$999),2)", amount["sundries"]),
        ("markup", "Mark-up on materials", f"=ROUND(({{paint}}+{{sundries}})*{r['markup_pct']}/100,2)", amount["markup"]),
        ("labour", "Labour", f"=ROUND({{hours}}*{r['labour_per_h']},2)", amount["labour"]),
        ("access", "Access hire", f"={r['hire']}", amount["access"]),
        ("disposal", "Disposal", f"={r['disposal']}", amount["disposal"]),
        ("direct", "Direct cost", "=SUM({paint}:{disposal})", float(price.direct)),
        ("overhead", "Overhead", f"=ROUND({{direct}}*{r['overhead_pct']}/100,2)", amount["overhead"]),
        ("net", "Price before tax", f"=ROUND(ROUNDUP(ROUND({bare}/{r['rounding']},9),0)*{r['rounding']},2)", float(price.net)),
        ("margin", "of it margin", "={net}-{direct}-{overhead}", amount["margin"]),
        ("tax", "Tax", f"=ROUND({{net}}*{r['tax_pct']}/100,2)", float(price.tax)),
        ("total", "The owner pays", "={net}+{tax}", float(price.total)),
        ("deposit", "on signing", f"=ROUND({{total}}*{r['deposit_pct']}/100,2)", float(price.deposit)),
        ("halfway", "halfway", f"=MIN(ROUND({{total}}*{r['halfway_pct']}/100,2),{{total}}-{{deposit}})", float(price.halfway)),
        ("rest", "after the punch list", "={total}-{deposit}-{halfway}", float(price.rest)),
    ]  # fmt: skip
    cells = {key: f"B{index}" for index, (key, *_) in enumerate(rows, start=2)}
    sheet = sheets.sheet("Price", (f"{bill.job}, {bill.money.currency}", "Amount"), (30, 16))
    for row, (_, label, formula, value) in enumerate(rows, start=1):
        sheet.write_string(row, 0, label)
        sheet.write_formula(row, 1, formula.format(**cells), sheets.money, value)
    sheet.activate()
