/** Calls back once nothing has been going on for a while. */
export class Idle {
  private going = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    /** ms */
    private readonly after: number,
    private readonly rest: () => void,
  ) {}

  /** Something begins. */
  wake(): void {
    this.going++;
    clearTimeout(this.timer);
  }

  /** Something that began has ended. */
  sleep(): void {
    if (--this.going === 0) this.timer = setTimeout(this.rest, this.after);
  }

  /** Work during which it is awake. */
  during<A extends unknown[], R>(work: (...args: A) => Promise<R>): (...args: A) => Promise<R> {
    return async (...args) => {
      this.wake();
      try {
        return await work(...args);
      } finally {
        this.sleep();
      }
    };
  }
}
