import { withSignalsNow } from '../../core/document/signals';
import type { Settings } from '../../core/document/schema';
import type { SignalDrive } from '../../core/values/drives/signal';
import { runSignal, type SignalRun } from '../../core/values/signals/signal';
import type { Heard } from '../../live/definition';
import { signalKey } from '../state/liveStore';

/** Signals as they run: each hears every sample of its channels once, however often it is looked at. */
export class SignalRunner {
  private readonly runs = new Map<string, { readonly run: SignalRun; now: number | null }>();
  private readonly last = new Map<string, number>();

  /** Channels as they are at a time, s, and every signal that is to run. */
  hear(channels: Heard, seconds: number, drives: readonly SignalDrive[]): void {
    for (const [name, value] of Object.entries(channels)) this.last.set(name, value);
    const wanted = new Set<string>();
    for (const drive of drives) {
      const key = signalKey(drive);
      if (wanted.has(key)) continue;
      wanted.add(key);
      let found = this.runs.get(key);
      if (!found) this.runs.set(key, (found = { run: runSignal(drive.signal), now: null }));
      found.now = found.run.next(this.last, seconds);
    }
    // those that are set otherwise now begin anew
    for (const key of this.runs.keys()) if (!wanted.has(key)) this.runs.delete(key);
  }

  /** What a signal gives; null before any of its channels was heard. */
  now(drive: SignalDrive): number | null {
    return this.runs.get(signalKey(drive))?.now ?? null;
  }

  /** What all of them give, by `signalKey`. */
  values(): Record<string, number> {
    return Object.fromEntries([...this.runs].flatMap(([key, { now }]) => (now === null ? [] : [[key, now] as const])));
  }

  /** Settings with what their signals give. */
  settings(settings: Settings): Settings {
    return withSignalsNow(settings, (drive) => this.now(drive));
  }
}
