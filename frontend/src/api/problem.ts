/** An answer other than the one hoped for, as the server worded it. */
export class Problem extends Error {
  readonly detail: string;
  readonly status: number;
  readonly type: string;
  /** What it is about as it is now, where the server says so. */
  readonly now: unknown;

  constructor(status: number, title: string, detail: string, type = "", now: unknown = null) {
    super(title);
    this.name = "Problem";
    this.status = status;
    this.detail = detail;
    this.type = type;
    this.now = now;
  }

  /** Whether the same request may simply be sent again. */
  get isPassing(): boolean {
    return this.status === 0 || this.status === 502 || this.status === 503 || this.status === 504;
  }
}
