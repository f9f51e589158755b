import { eased, type Easing } from '../values/drive';
import type { Moment } from '../values/moment';
import { centimetres, choice, frames, metres, toggle, valuesSchema, type NumberParam, type Params, type ValuesOf } from '../values/params';
import { AT_PLATE, shiftFor, type CameraPose } from './pose';

/** What a move works with at one moment. */
export interface MoveInput<V> {
  readonly params: V;
  readonly at: Moment;
  /** frames of the shot */
  readonly length: number;
  /** horizontal field of view of the picture, degrees */
  readonly hfovDegrees: number;
}

export interface MoveDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly label: string;
  /** one line for the list of moves that can be added */
  readonly help: string;
  readonly params: P;
  /** parameters that say how far it goes: shortened together, and chosen so that a new move tears nothing open */
  readonly amounts: readonly string[];
  /** the distance at which things stand still, or are looked at: a parameter with a handle on the rail */
  readonly fixedDistance?: string;
  /** where it is drawn: from above (x and z) or from the side (y and z); the parameters that a drag of its end sets */
  readonly path?: MovePath<ValuesOf<P>>;
  summary(params: ValuesOf<P>): string;
  pose(input: MoveInput<ValuesOf<P>>): CameraPose;
  /** frames after which it is where it began; null where it never is */
  period?(params: ValuesOf<P>): number | null;
}

export interface MovePath<V> {
  readonly from: 'above' | 'side';
  /** what the parameters become when the end of the move is put so many metres right, down and forward of its beginning */
  drag(params: V, to: { readonly x: number; readonly y: number; readonly z: number }): Partial<V>;
}

export const defineMove = <P extends Params>(definition: MoveDefinition<P>): MoveDefinition<P> => definition;

export const easingOptions: readonly { readonly value: Easing; readonly label: string }[] = [
  { value: 'ease', label: 'Slow both' },
  { value: 'straight', label: 'Straight' },
  { value: 'ease-in', label: 'Slow in' },
  { value: 'ease-out', label: 'Slow out' },
  { value: 'hold', label: 'Hold' },
];

/** Where in the shot a move runs, and how: for moves that go from one place to another. */
export const runParams = (plateAt: 'start' | 'middle' | 'end' = 'start') => ({
  from: frames({ section: 'When', label: 'Begins at', min: 0, max: 480, highest: 36000, default: 0 }),
  over: frames({
    section: 'When',
    label: 'Over',
    min: 1,
    max: 480,
    lowest: 0,
    highest: 36000,
    default: 0,
    names: { 0: 'all' },
    help: 'Frames, or seconds such as 2 s; all: to the end of the shot',
  }),
  easing: choice<Easing>({ section: 'When', label: 'Easing', default: 'ease', options: easingOptions }),
  returns: toggle({ section: 'When', label: 'There and back', default: false, help: 'Ends where it began, so that the shot loops' }),
  plate: choice({
    section: 'When',
    label: 'Plate at its',
    default: plateAt,
    options: [
      { value: 'start', label: 'Start' },
      { value: 'middle', label: 'Middle' },
      { value: 'end', label: 'End' },
    ],
    help: 'Where on its way it stands where the plate was taken: the middle tears least',
  }),
});

interface RunValues {
  readonly from: number;
  readonly over: number;
  readonly easing: Easing;
  readonly returns: boolean;
  readonly plate: string;
}

/** Frames from the first to the last of a run. */
export const runEnds = ({ from, over }: Pick<RunValues, 'from' | 'over'>, length: number): { from: number; to: number } => ({
  from,
  to: over > 0 ? from + over : Math.max(from + 1, length - 1),
});

/** What of a move's values is that of a run; null where it goes on and on. */
export const runOf = ({ params }: Pick<MoveDefinition, 'params'>, values: Readonly<Record<string, unknown>>): RunValues | null =>
  'over' in params ? valuesSchema(runParams()).parse(values) : null;

const startOf: Readonly<Record<string, number>> = { start: 0, middle: -0.5, end: -1 };

/** Where a run stands at its start: 0 where it starts at the plate, -1 where it ends there. */
export const startShare = ({ plate }: Pick<RunValues, 'plate'>): number => startOf[plate] ?? 0;

/** How far a run has come: 0 at the plate, from start to end a length of 1. */
export function shareOf(p: RunValues, at: Moment, length: number): number {
  const { from, to } = runEnds(p, length);
  const t = Math.min(1, Math.max(0, (at.frame - from) / (to - from)));
  const way = p.returns ? eased(p.easing, t < 0.5 ? 2 * t : 2 - 2 * t) : eased(p.easing, t);
  return way + startShare(p);
}

/** The path of a run that is there and back is as long as its run; of any other there is none. */
export const runPeriod = (p: RunValues): number | null => (p.returns && p.over > 0 ? p.over : null);

export const amountOf = (label: string, usual: number, extra: Partial<Pick<NumberParam, 'help' | 'lowest'>> = {}): NumberParam =>
  centimetres({ label, min: 0, max: 200, lowest: -100000, highest: 100000, default: usual, ...extra });

/** A distance so far that nothing stands still, m. */
export const NOTHING = 1e6;

export const standsParam = (help = 'What lies there keeps its place in the picture'): NumberParam =>
  metres({ label: 'Stands still at', min: 0.3, max: 300, lowest: 0.01, highest: NOTHING, default: 4, names: { [NOTHING]: 'nothing' }, help });

/** A pose that has gone so far, m, with the picture shifted so that things at a distance from where the plate was taken stand still. */
export function steppedAside(x: number, y: number, z: number, fixedDistance: number): CameraPose {
  const left = fixedDistance - z;
  return { ...AT_PLATE, x, y, z, ...(fixedDistance < NOTHING && left > 0 ? shiftFor(x, y, left) : {}) };
}

/** Numbers of a move with the values that are missing or unreadable at their defaults. */
export const moveValues = <P extends Params>(definition: MoveDefinition<P>, values: Readonly<Record<string, unknown>>): ValuesOf<P> =>
  valuesSchema(definition.params).parse(values);

export const CM = 0.01;
