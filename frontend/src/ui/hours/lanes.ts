/** Where something stands on a grid of hours: 0 is the first day; minutes since midnight. */
export type Placing = { day: number; start: number; end: number; lane: number; lanes: number };

/** Lets those that overlap stand side by side; they must be in order of day and start. */
export function spreadOverlaps(placed: Placing[]): void {
  let cluster: Placing[] = [];
  let until = -1;
  let day = -1;
  const close = () => {
    const ends: number[] = [];
    for (const item of cluster) {
      const free = ends.findIndex((end) => end <= item.start);
      item.lane = free < 0 ? ends.length : free;
      ends[item.lane] = item.end;
    }
    for (const item of cluster) item.lanes = ends.length;
    cluster = [];
  };
  for (const item of placed) {
    if (item.day !== day || item.start >= until) {
      close();
      until = -1;
      day = item.day;
    }
    cluster.push(item);
    until = Math.max(until, item.end);
  }
  close();
}
