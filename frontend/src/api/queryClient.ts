/** Queries of which no answer from before a change stays. */
import { type InvalidateQueryFilters, QueryClient } from "@tanstack/react-query";

/**
 * Asks anew for what a change has made old, a first answer that is on its way included. The usual client
 * waits for that one, and shows it though it may have been read before the change.
 */
export class TruthfulQueryClient extends QueryClient {
  override invalidateQueries(filters?: InvalidateQueryFilters): Promise<void> {
    for (const query of this.getQueryCache().findAll(filters))
      if (query.isActive() && !query.state.data) query.cancel({ silent: true });
    return super.invalidateQueries(filters);
  }
}
