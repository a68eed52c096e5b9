"""Trades of waiting swaps, against networkx as an independent judge."""

from __future__ import annotations

import unittest

import networkx as nx
from hypothesis import given
from hypothesis import strategies as st

from gremba.core.waitlists.trades import Trade, WaitingSwap, find_trades
from tests.support.examples import examples


def trades(swaps: list[WaitingSwap], refuse: frozenset[int] = frozenset()) -> list[list[int]]:
    found = find_trades(swaps, lambda trade: refuse & {w.entry for w in trade})
    return [[w.entry for w in trade] for trade in found]


def wish_list(*pairs: tuple[int, int]) -> list[WaitingSwap]:
    """Pools wanted and given, those who have waited longest first."""
    return [WaitingSwap(n, wants, gives) for n, (wants, gives) in enumerate(pairs, 1)]


@st.composite
def many(draw: st.DrawFn) -> list[WaitingSwap]:
    pool = st.integers(1, 6)
    pairs = draw(st.lists(st.tuples(pool, pool), max_size=10))
    return wish_list(*pairs)


class Trades(unittest.TestCase):
    def test_two_who_want_what_the_other_has(self) -> None:
        self.assertEqual(trades(wish_list((1, 2), (2, 1))), [[1, 2]])

    def test_three_in_a_circle(self) -> None:
        self.assertEqual(trades(wish_list((2, 1), (3, 2), (1, 3))), [[1, 2, 3]])

    def test_of_two_who_want_the_same_the_one_who_has_waited_longest(self) -> None:
        # 1 and 2 both want pool 9 and give pool 1; only 3 gives 9 and wants 1.
        self.assertEqual(trades(wish_list((9, 1), (9, 1), (1, 9))), [[1, 3]])

    def test_where_its_decision_does_not_agree_the_next(self) -> None:
        self.assertEqual(trades(wish_list((9, 1), (9, 1), (1, 9)), frozenset({1})), [[2, 3]])

    def test_no_trade_no_service(self) -> None:
        self.assertEqual(trades(wish_list((1, 2), (2, 3), (4, 4))), [])

    @examples(400)
    @given(many(), st.sets(st.integers(1, 10), max_size=3))
    def test_against_networkx(self, swaps: list[WaitingSwap], refuse: set[int]) -> None:
        found = find_trades(swaps, lambda trade: refuse & {w.entry for w in trade})
        served = [w.entry for trade in found for w in trade]
        self.assertEqual(len(served), len(set(served)), "nobody is in two trades")
        for trade in found:
            self.assertTrue(self.is_trade(trade))
        # No trade is left that could be served: the graph of those left has no cycle.
        left = nx.MultiDiGraph()
        for swap in swaps:
            if swap.entry not in served and swap.entry not in refuse and swap.wants != swap.gives:
                left.add_edge(swap.gives, swap.wants)
        self.assertTrue(nx.is_directed_acyclic_graph(left))

    @examples(200)
    @given(many())
    def test_whoever_could_be_served_and_is_not_lost_to_one_who_waited_longer(
        self, swaps: list[WaitingSwap]
    ) -> None:
        found = find_trades(swaps, lambda trade: ())
        served = {w.entry for trade in found for w in trade}
        for swap in swaps:
            if swap.entry in served:
                continue
            # Its trades, if there are any, each need somebody who went with an earlier one.
            earlier = {w.entry for trade in found if min(w.entry for w in trade) < swap.entry for w in trade}
            graph = nx.MultiDiGraph()
            for other in swaps:
                if other.entry not in earlier and other.wants != other.gives:
                    graph.add_edge(other.gives, other.wants)
            if swap.wants != swap.gives and swap.wants in graph and swap.gives in graph:
                self.assertFalse(nx.has_path(graph, swap.wants, swap.gives))

    @examples(200)
    @given(many())
    def test_the_shortest_trade_over_those_who_wait_longest(self, swaps: list[WaitingSwap]) -> None:
        expected: list[list[int]] = []
        left = [w for w in swaps if w.wants != w.gives]
        for swap in list(left):
            cycles = sorted(self.cycles(swap, left), key=lambda c: (len(c), c)) if swap in left else []
            if cycles:
                expected.append(cycles[0])
                left = [w for w in left if w.entry not in cycles[0]]
        self.assertEqual(trades(swaps), expected)

    @staticmethod
    def cycles(first: WaitingSwap, left: list[WaitingSwap]) -> list[list[int]]:
        """Every trade that a swap lies on, written out by networkx."""
        graph = nx.DiGraph()
        for one in left:
            graph.add_edges_from((one.entry, o.entry) for o in left if o is not one and one.wants == o.gives)
        if first.entry not in graph:
            return []
        found = []
        for cycle in nx.simple_cycles(graph):
            if first.entry in cycle:
                start = cycle.index(first.entry)
                found.append(cycle[start:] + cycle[:start])
        return found

    def test_whoever_is_stopped_is_asked_about_once(self) -> None:
        swaps = wish_list(*((n % 3, (n + 1) % 3) for n in range(30)))
        asked: list[int] = []

        def serve(trade: Trade) -> list[int]:
            asked.append(trade[-1].entry)
            return [trade[-1].entry]

        self.assertEqual(find_trades(swaps, serve), [])
        self.assertEqual(len(asked), len(set(asked)))

    @staticmethod
    def is_trade(trade: Trade) -> bool:
        following = [*trade[1:], trade[0]]
        return all(one.wants == other.gives for one, other in zip(trade, following, strict=True))
