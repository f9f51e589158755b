import { useLive } from '../state/liveStore';

/** So long channels are remembered, ms. */
export const HISTORY_MS = 10_000;

export interface Sample {
  /** ms */
  readonly at: number;
  readonly value: number;
}

const kept = new Map<string, Sample[]>();
let listening: (() => void) | null = null;
let watchers = 0;

/** Remembers what channels were worth for as long as somebody looks. */
export function rememberChannels(): () => void {
  watchers++;
  listening ??= useLive.subscribe((now, before) => {
    if (now.channels === before.channels) return;
    const at = performance.now();
    for (const [name, value] of Object.entries(now.channels)) {
      const samples = kept.get(name) ?? [];
      samples.push({ at, value });
      while (samples[0] && samples[0].at < at - HISTORY_MS) samples.shift();
      kept.set(name, samples);
    }
    for (const name of kept.keys()) if (!(name in now.channels)) kept.delete(name);
  });
  return () => {
    if (--watchers > 0) return;
    listening?.();
    listening = null;
    kept.clear();
  };
}

/** What a channel was worth in the last seconds, the oldest first. */
export const historyOf = (name: string): readonly Sample[] => kept.get(name) ?? [];
