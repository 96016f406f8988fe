"""Price: from materials, hours and hire to what the owner pays, each line with what it came from.

Money is reckoned in whole cents, so that lines add up to their sum on every face.
Not here: litres and packs (takeoff), hours (labour), how money is written (units, documents).
"""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import ROUND_CEILING, ROUND_HALF_UP, Decimal

from amber_gable.core.knowledge import Money

_CENT = Decimal("0.01")


def cents(value: float | Decimal) -> Decimal:
    """Return money rounded to the cent, halves up."""
    return Decimal(repr(value) if isinstance(value, float) else value).quantize(_CENT, ROUND_HALF_UP)


@dataclass(frozen=True)
class Costs:
    """Costs of a job, before the contractor's rates.

    Parameters
    ----------
    paint, sundries, access : float
        At cost, in the contractor's money.
    hours : float
        Of all painters, set-up and slack among them.
    """

    paint: float
    sundries: float
    access: float
    hours: float


@dataclass(frozen=True)
class PriceLine:
    """A line of the price and its arithmetic: words with places for figures, and the figures; `money` names those that are money."""

    key: str
    label: str
    amount: Decimal
    how: str
    figures: tuple[tuple[str, Decimal], ...] = ()
    money: tuple[str, ...] = ()

    def explained(self, write_money: Callable[[Decimal], str]) -> str:
        """Return the arithmetic with every figure written as the contractor writes it."""
        return self.how.format(**{name: write_money(v) if name in self.money else f"{v.normalize():f}" for name, v in self.figures})


@dataclass(frozen=True)
class Price:
    """Price of a job.

    Parameters
    ----------
    lines : tuple of PriceLine
        In order; they add up to `net`.
    net, tax, total : Decimal
    deposit, halfway, rest : Decimal
        The steps of payment; they add up to the total.
    """

    lines: tuple[PriceLine, ...]
    net: Decimal
    tax: Decimal
    total: Decimal
    deposit: Decimal
    halfway: Decimal
    rest: Decimal

    def amount(self, key: str) -> Decimal:
        return next(line.amount for line in self.lines if line.key == key)

    @property
    def direct(self) -> Decimal:
        """Direct cost: all but overhead and margin."""
        return sum((line.amount for line in self.lines if line.key not in ("overhead", "margin")), Decimal(0))


def _bare(direct: Decimal, money: Money) -> tuple[Decimal, Decimal]:
    """Return the overhead on a direct cost, and the price before tax that leaves the margin, not rounded."""
    overhead = cents(direct * Decimal(repr(money.overhead_pct)) / 100)
    return overhead, (direct + overhead) / (1 - Decimal(repr(money.margin_pct)) / 100)


def price_of_hours(hours: float, money: Money) -> Decimal:
    """Return what painter-hours alone cost before tax: an extra that no unit price covers.

    Parameters
    ----------
    hours : float
        Of all painters.
    money : Money
        The contractor's rates.
    """
    return cents(_bare(Decimal(repr(hours)) * Decimal(repr(money.labour_per_h)), money)[1])


def tax_on(net: Decimal, money: Money) -> Decimal:
    return cents(net * Decimal(repr(money.tax_pct)) / 100)


def _share(key: str, label: str, amount: Decimal, how: str, pct: Decimal, base: Decimal) -> PriceLine:
    return PriceLine(key, label, amount, how, (("pct", pct), ("base", base)), ("base",))


def price_of(costs: Costs, money: Money) -> Price:
    """Return the price of a job.

    Parameters
    ----------
    costs : Costs
    money : Money
        The contractor's rates.

    Notes
    -----
    Direct cost = materials with mark-up + labour at the burdened rate + hire + disposal; overhead is a share of it;
    margin is a share of the price before tax, so net = (direct + overhead) / (1 - margin). The net is rounded up to a
    whole `rounding`, and the margin takes what that adds.
    """
    paint, sundries = cents(costs.paint), cents(costs.sundries)
    markup = cents((paint + sundries) * Decimal(repr(money.markup_pct)) / 100)
    rate, hours = Decimal(repr(money.labour_per_h)), Decimal(repr(round(costs.hours, 2)))
    labour = cents(rate * hours)
    hire, disposal = cents(costs.access), cents(money.disposal)
    direct = paint + sundries + markup + labour + hire + disposal
    overhead, bare = _bare(direct, money)
    step = Decimal(repr(money.rounding))
    net = cents((bare / step).to_integral_value(ROUND_CEILING) * step)
    tax = tax_on(net, money)
    total = net + tax
    share = {name: Decimal(repr(getattr(money, name))) for name in ("markup_pct", "overhead_pct", "margin_pct")}
    lines = (
        PriceLine("paint", "Paint", paint, "whole containers at cost"),
        PriceLine("sundries", "Sundries", sundries, "whole units at cost"),
        _share("markup", "Mark-up on materials", markup, "{pct} % of {base}", share["markup_pct"], paint + sundries),
        PriceLine("labour", "Labour", labour, "{hours} h at {rate}", (("hours", hours), ("rate", rate)), ("rate",)),
        PriceLine("access", "Access hire", hire, "days of hire and delivery"),
        PriceLine("disposal", "Disposal", disposal, "a job"),
        _share("overhead", "Overhead", overhead, "{pct} % of {base}", share["overhead_pct"], direct),
        _share(
            "margin",
            "Margin",
            net - direct - overhead,
            "{pct} % of the price before tax, which goes up to the next {base}",
            share["margin_pct"],
            step,
        ),
    )
    deposit = cents(total * Decimal(repr(money.deposit_pct)) / 100)
    halfway = min(cents(total * Decimal(repr(money.halfway_pct)) / 100), total - deposit)
    return Price(lines, net, tax, total, deposit, halfway, total - deposit - halfway)
