import type { Scene } from './tracer/scene';

/** m */
export const LAMP_RADIUS = 0.01;

/** Where the lamp of the relighting truth hangs, by the distance of what each scene is about, m. */
const SUBJECT: Readonly<Record<string, number>> = { chartTable: 1.1, quayLamp: 5, figurehead: 2.15, dunes: 5 };

/** The lamp that is added: its place in the camera's axes (m: right, down, forward) and its intensity for each channel. */
export function addedLamp({ name }: Pick<Scene, 'name'>): { at: readonly [number, number, number]; intensity: readonly [number, number, number] } {
  const d = SUBJECT[name] ?? 2;
  // from the side, low, so that shadows fall; brighter on the subject than the sky is, warmer
  const intensity = 7 * (0.5 * d) ** 2;
  return { at: [0.4 * d, -0.1 * d, 0.66 * d], intensity: [1.2 * intensity, intensity, 0.7 * intensity] };
}
