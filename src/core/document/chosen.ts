import type { Chosen, Choice, Shot } from './schema';

/** What a signal chose: a shot as it is to be shown. */
export interface Seen {
  readonly choice: Choice;
  readonly shot: Shot;
  /** it is the live shot itself, as it is set or as a take has it: shown of the pictures that arrive */
  readonly own: boolean;
}

/** The shot that one of what there is to choose from means, among the shots of its project; null where it, or its take, is gone. */
export function shotOfChoice(choice: Choice, live: Shot, shots: readonly Shot[]): Seen | null {
  const { shot: id, take: takeId } = choice;
  const own = id === null || id === live.id;
  const shot = own ? live : shots.find((s) => s.id === id);
  if (!shot) return null;
  if (takeId === null) return { choice, shot, own };
  const take = shot.takes.find((t) => t.id === takeId);
  return take ? { choice, shot: { ...shot, settings: take.settings }, own } : null;
}

/** Which of so many a signal means: the nearest there is; the first before it was heard. */
export const numberChosen = (value: number | null, of: number): number =>
  value === null || Number.isNaN(value) ? 0 : Math.max(0, Math.min(of - 1, Math.round(value)));

/** A choice among one more, or one less: what counts or selects as many as there were goes along. */
export function withAmong(chosen: Chosen, among: readonly Choice[]): Chosen {
  const [before, after] = [chosen.among.length, Math.max(2, among.length)];
  const steps = chosen.signal.steps.map((step) => {
    const counts = Object.entries(step.values).filter(([name, value]) => (name === 'wraps' || name === 'of') && value === Math.max(2, before));
    return counts.length > 0 ? { ...step, values: { ...step.values, ...Object.fromEntries(counts.map(([name]) => [name, after])) } } : step;
  });
  return { among: [...among], signal: { ...chosen.signal, steps } };
}
