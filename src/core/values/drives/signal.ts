import * as z from 'zod';
import { storedNumber } from '../endless';
import type { NumberParam } from '../params';
import { rangeStep } from '../signals/steps/range';
import { smoothStep } from '../signals/steps/smooth';
import { runSignal, signalSchema, type Signal } from '../signals/signal';
import { defineDrive } from './definition';

const schema = z.object({
  kind: z.literal('signal'),
  signal: signalSchema,
  /** what it gives now, while its channels are heard; never stored */
  now: storedNumber.optional(),
  /** its channels as they were recorded, in their order, a value a frame */
  heard: z.object({ fps: z.number().positive(), values: z.array(z.array(z.number())).max(100) }).optional(),
});
export type SignalDrive = z.infer<typeof schema>;

/** What stands for an endless distance in a range, m. */
const FARTHEST = 1000;

/** What recorded channels gave, frame by frame: documents do not change, so that each drive is run once. */
const played = new WeakMap<SignalDrive, readonly (number | null)[]>();

/** What a signal gives of what was recorded of its channels, frame by frame; null before any of them was heard. */
function playedBack(drive: SignalDrive): readonly (number | null)[] {
  let found = played.get(drive);
  if (!found) {
    const { signal, heard } = drive;
    const run = runSignal(signal);
    const length = Math.max(0, ...(heard?.values ?? []).map((v) => v.length));
    found = Array.from({ length }, (_, frame) =>
      run.next(new Map(signal.channels.map((name, k) => [name, heard!.values[k]?.[frame] ?? NaN])), frame / heard!.fps),
    );
    played.set(drive, found);
  }
  return found;
}

/** A live channel, or what was recorded of it, and what is done to it on the way. */
export const signalDrive = defineDrive<SignalDrive>({
  kind: 'signal',
  label: 'Signal',
  help: 'A channel that is heard, and what becomes of it.',
  schema,
  begin({ set, swing }) {
    const low = Number.isFinite(set) ? set : FARTHEST;
    const steps: Signal['steps'] = [
      { kind: rangeStep.kind, values: { from: 0, to: 1, low, high: low + swing } },
      { kind: smoothStep.kind, values: { seconds: 0.1 } },
    ];
    return { kind: 'signal', signal: { channels: [], steps } };
  },
  value(drive, set, frame) {
    if (drive.now !== undefined) return drive.now;
    const series = drive.heard ? playedBack(drive) : [];
    return series[Math.min(series.length - 1, Math.max(0, Math.floor(frame + 1e-6)))] ?? set;
  },
  map: (drive, change) => ({
    ...drive,
    signal: {
      ...drive.signal,
      steps: drive.signal.steps.map((step) =>
        step.kind === rangeStep.kind
          ? { ...step, values: { ...step.values, low: of(step.values.low, 0, change), high: of(step.values.high, 1, change) } }
          : step,
      ),
    },
  }),
});

const of = (value: unknown, usual: number, change: (value: number) => number): number => change(typeof value === 'number' ? value : usual);

/** A drive with the channels that were recorded of its own; without where none of them was. */
export function withHeard({ heard: _, ...drive }: SignalDrive, recorded: Readonly<Record<string, number[]>> | undefined, fps: number): SignalDrive {
  const values = drive.signal.channels.map((name) => recorded?.[name] ?? []);
  return values.some((v) => v.length > 0) ? { ...drive, heard: { fps, values } } : drive;
}

/** The number of a step, in the unit of the number that it ends in, where it is one. */
export const inUnitOf = (param: NumberParam, own: NumberParam, name: string, kind: string): NumberParam =>
  kind === rangeStep.kind && (name === 'low' || name === 'high') ? { ...param, label: own.label, names: {} } : own;
