import * as z from 'zod';
import { anyNumber } from '../anyNumber';
import { valuesSchema } from '../params';
import { registryOf } from '../registry';
import type { StepDefinition, StepRun } from './definition';
import { countStep } from './steps/count';
import { gateStep } from './steps/gate';
import { rangeStep } from './steps/range';
import { scaleStep } from './steps/scale';
import { selectStep } from './steps/select';
import { smoothStep } from './steps/smooth';

/** Every step of a signal, in the order in which they are offered. */
export const stepRegistry = registryOf<StepDefinition>('step of a signal', [rangeStep, smoothStep, gateStep, countStep, selectStep, scaleStep]);

const stepSchema = z.object({ kind: z.string(), values: z.record(z.string(), z.union([anyNumber, z.boolean()])).default({}) });

/** Channels by name, of which any counts (the largest), and what is done to it, step by step. */
export const signalSchema = z.object({
  channels: z.array(z.string().max(200)).max(100),
  steps: z.array(stepSchema).max(20).default([]),
});
export type Signal = z.infer<typeof signalSchema>;

/** A signal as it runs. */
export interface SignalRun {
  /** The value after new values of its channels, by name, at a time, s; null until any of them has been heard. A clock that goes back counts as standing still. */
  next(channels: ReadonlyMap<string, number>, seconds: number): number | null;
}

/** Begins a signal. Steps of kinds that are not known here are left out. */
export function runSignal({ channels, steps }: Signal): SignalRun {
  const runs: StepRun[] = steps
    .filter((step) => stepRegistry.knows(step.kind))
    .map((step) => {
      const definition = stepRegistry.of(step.kind);
      return definition.begin(valuesSchema(definition.params).parse(step.values));
    });
  let before: number | null = null;
  let last: number | null = null;
  return {
    next(heard, seconds) {
      const values = channels.map((name) => heard.get(name)).filter((v) => v !== undefined && !Number.isNaN(v)) as number[];
      if (values.length === 0) return last;
      const since = before === null ? 0 : Math.max(0, seconds - before);
      before = Math.max(before ?? seconds, seconds);
      last = runs.reduce((value, run) => run.next(value, since), Math.max(...values));
      return last;
    },
  };
}

/** A signal in words: it reads like a sentence. */
export function sentenceOf({ channels, steps }: Signal): string {
  if (channels.length === 0) return 'no channel yet';
  const from = channels.length === 1 ? channels[0]! : `any of ${channels.slice(0, -1).join(', ')} and ${channels.at(-1)!}`;
  const said = steps
    .filter((step) => stepRegistry.knows(step.kind))
    .map((step) => {
      const definition = stepRegistry.of(step.kind);
      return definition.sentence(valuesSchema(definition.params).parse(step.values));
    });
  return [from, ...said].join(', ');
}
