"""Finds the database a command is about: the one named, or that of the private cluster."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from gremba.launch.cluster import private_cluster
from gremba.launch.databases import NotServed
from gremba.launch.serve import DEMO, LOCAL, PLAIN


@contextmanager
def own_database(url: str) -> Iterator[str]:
    """The address of a running database. The private cluster is started if necessary, and stopped again.

    Args:
        url: as it was named; "" for the college's own in the private cluster, or else the demo.

    Raises:
        NotServed: none was named, and there is none.
        ClusterProblem: the cluster does not start.
    """
    if url:
        yield url
        return
    if not (LOCAL / "postgres" / "complete").exists():
        raise NotServed("There is no database yet. Start Gremba once: ./start --no-demo")
    cluster = private_cluster(LOCAL, "postgres")
    is_ours = cluster.start()
    try:
        there = cluster.databases()
        found = next((name for name in (PLAIN, DEMO) if name in there), None)
        if found is None:
            raise NotServed("There is no database yet. Start Gremba once: ./start --no-demo")
        yield cluster.url(found)
    finally:
        if is_ours:
            cluster.stop()
