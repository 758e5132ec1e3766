"""Selectors put together from their parts."""

from __future__ import annotations

from wary_hound.locator.css.values import Complex, Compound, Selectors, Simple, Type


def selector(*simples: Simple) -> Selectors:
    """One compound; a type selector goes first, and `*` stands for none."""
    types = [one for one in simples if isinstance(one, Type)]
    rest = [one for one in simples if not isinstance(one, Type)]
    return (Complex(("",), (Compound((*types[:1], *rest) or (Type("*"),)),)),)


def joined(outer: Selectors, combinator: str, inner: Selectors) -> Selectors:
    """What `inner` finds in the combinator's relation to what `outer` finds; each is a list of one."""
    (before,), (after,) = outer, inner
    return (Complex((*before.combinators, combinator, *after.combinators[1:]), (*before.compounds, *after.compounds)),)
