/**
 * Does something in a task of its own, as soon as what runs now is over: the browser draws in between. Of several things given before that only
 * the last is done. (A timer would wait for some milliseconds at least.)
 */
export class OwnTask {
  private work: (() => void) | null = null;

  run(work: () => void): void {
    const waits = this.work !== null;
    this.work = work;
    if (waits) return;
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      this.flush();
    };
    port2.postMessage(null);
  }

  /** Does what waits now. */
  flush(): void {
    const { work } = this;
    this.work = null;
    work?.();
  }
}
