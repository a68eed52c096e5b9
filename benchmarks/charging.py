"""What reckoning charges costs a submission, and how long the drop for nonpayment takes while people search."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from psycopg.types.json import Jsonb

from benchmarks.college import SECTIONS, TERM, fill
from benchmarks.searching import Typing
from gremba.actions.context import ActionContext
from gremba.actions.registration.process_submissions import process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.account.charges import Charges
from gremba.core.account.policy import AccountPolicy, DueDate, account_policy_data
from gremba.core.account.tariff import FeeScope, RateClass, Tariff, TariffFee
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding import conclusion
from gremba.demo.morning import SetClock
from gremba.store.account.rates import insert_tariff
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql, run_sql

BATCH = 32
TURNS = 24
NONPAYMENT = 2_000

TARIFF = Tariff(
    {"": RateClass(24_500, band_cents=320_000, audit_per_credit=6_000)},
    (
        TariffFee("Term fee", 16_500),
        TariffFee("online", 6_000, FeeScope.DELIVERY, "online any time", each=True),
        TariffFee("Hill", 2_500, FeeScope.CAMPUS, "hill"),
    ),
)


@dataclass(frozen=True)
class Charging:
    """What was measured.

    Attributes:
        ratio: time of a submission with charges to that without any, the median of the turns.
        nonpayment_seconds: of the drop for nonpayment of so many students.
        lost: students who lost seats.
        searches: seconds of the searches meanwhile.
    """

    ratio: float
    with_charges: float
    without: float
    nonpayment_seconds: float
    lost: int
    searches: list[float]


class _NoCharges(Charges):
    """Reckons nothing."""

    def __init__(self, *_: Any) -> None:
        self.held = {}
        self.dropped = []

    def apply(self, event: Any) -> Any:
        """Nothing."""
        return None

    @property
    def total_cents(self) -> int:
        """Nothing."""
        return 0


def measure_charging(url: str, folder: Path, serve: Callable[[], Callable[[], None]], port: int) -> Charging:
    """Fill an empty, migrated database, and measure.

    Args:
        serve: starts the application at that port, and gives what stops it.
    """
    database = connect(url)
    fill(database, NONPAYMENT + BATCH * TURNS * 2, folder / "bench-charging.tsv")
    with connected(database):
        ((term_id,),) = fetch_sql(database, "SELECT id FROM terms WHERE code = %s", (TERM,))
        run_sql(database, "INSERT INTO campuses VALUES ('hill', 'Hill')")
        insert_tariff(database, term_id, TARIFF)
    context = ActionContext(database, CatalogueCache(database), SetClock(datetime.now(UTC)))
    withs, withouts = _submit(context)
    ratio = statistics.median(a / b for a, b in zip(withs, withouts, strict=True))
    _register(database)
    due = datetime.now(UTC) + timedelta(seconds=25)
    # Those who have just submitted are left out of it.
    before = (datetime.now(ZoneInfo("America/New_York")) - timedelta(1)).date()
    later = DueDate(due + timedelta(90), loses_seats=False)
    policy = AccountPolicy((DueDate(due, registered_through=before), later), warn_days=())
    with connected(database):
        run_sql(
            database,
            "UPDATE terms SET policy = policy || %s WHERE code = %s",
            (Jsonb({"account": account_policy_data(policy)}), TERM),
        )
        run_sql(database, "VACUUM ANALYZE registrations")
    stop = serve()
    people = [Typing(port, seed) for seed in range(2)]
    try:
        for person in people:
            person.start()
        took, lost = _wait(database)
    finally:
        for person in people:
            person.stop()
        stop()
        database.close_all()
    searches = [each for person in people for each in person.took]
    return Charging(ratio, statistics.median(withs), statistics.median(withouts), took, lost, searches)


def _submit(context: ActionContext) -> tuple[list[float], list[float]]:
    """Batches of five-section carts, in turns with charges and without: seconds of each."""
    rng = random.Random(5)
    term = context.term(TERM)
    taken: tuple[list[float], list[float]] = ([], [])
    row = NONPAYMENT
    for turn in range(TURNS * 2):
        batch = []
        for _ in range(BATCH):
            row += 1
            # Five hours apart, as they stand in the catalogue.
            hours = rng.sample(range(20), 5)
            numbers = [f"{20_000 + hour + 20 * rng.randrange(SECTIONS // 20)}" for hour in hours]
            request = Request(tuple(Change(Kind.ADD, number) for number in numbers))
            batch.append(Submission(row, term, request, f"bench-charge-{row}", row, "Bench"))
        conclusion.Charges = _NoCharges if turn % 2 else Charges  # type: ignore[assignment,misc]
        begun = time.perf_counter()
        process_submissions(context, batch)
        taken[turn % 2].append(time.perf_counter() - begun)
    conclusion.Charges = Charges  # type: ignore[misc]
    return taken


def _register(database: Any) -> None:
    with connected(database):
        run_sql(
            database,
            "INSERT INTO registrations (student_term_id, term_id, section_id, pool_id, state, grading, "
            "credits, registered_at) SELECT s, 1, p, p, 'registered', 'standard', 3, now() - interval '2 days' "
            "FROM generate_series(1, %s) s CROSS JOIN generate_series(0, 4) k, "
            "LATERAL (SELECT 1 + (s * 7 + k * 911) %% %s AS p) x",
            (NONPAYMENT, SECTIONS),
        )


def _wait(database: Any) -> tuple[float, int]:
    until = time.monotonic() + 240
    while time.monotonic() < until:
        time.sleep(0.5)
        with connected(database):
            found = fetch_sql(
                database,
                "SELECT extract(epoch FROM done_at - begun_at)::float, "
                "(SELECT count(*) FROM nonpayment_results WHERE result = 'seats lost') FROM nonpayment_drops "
                "WHERE done_at IS NOT NULL",
            )
        if found:
            return found[0][0], found[0][1]
    raise RuntimeError("the drop for nonpayment did not come to its end")


def rows_of(found: Charging) -> list[tuple[str, str]]:
    """Lines of a table."""
    quickest = sorted(found.searches)
    return [
        ("32 five-section carts in one batch, charges reckoned", f"{found.with_charges * 1000:.1f} ms"),
        ("the same, nothing reckoned", f"{found.without * 1000:.1f} ms"),
        ("with : without, median of the turns", f"{found.ratio:.3f}"),
        (
            f"the drop for nonpayment, {found.lost:,} students, two people searching",
            f"{found.nonpayment_seconds:.1f} s",
        ),
        ("a search meanwhile, median", f"{statistics.median(quickest):.1f} ms"),
        ("a search meanwhile, 99th percentile", f"{quickest[len(quickest) * 99 // 100]:.1f} ms"),
    ]
