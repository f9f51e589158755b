import { effectDefaults } from '../effects/definition';
import { namedEffect } from '../effects/registry';
import type { Drive } from '../values/drive';
import { LOOK_VERSION, type Look } from './looks';
import type { EffectItem } from './schema';

type Values = EffectItem['values'];

const effect = (kind: string, values: Values, drives: Record<string, Drive> = {}): EffectItem => ({
  id: '',
  kind,
  on: true,
  values: { ...(effectDefaults(namedEffect(kind)) as Values), ...values },
  drives,
});

const look = (name: string, ...effects: EffectItem[]): Look => ({ look: name, version: LOOK_VERSION, subject: 2, effects, moves: [] });

/** Within a reach that begins or ends at a multiple of the way to the subject, 2 m. */
const beyond = (from: number, shoulder = 0): Values => ({ reach: true, reachFrom: from, reachTo: Infinity, reachNear: shoulder });
const upTo = (to: number): Values => ({ reach: true, reachFrom: 0, reachTo: to });

/** Looks to begin with. Their distances are told for a subject 2 m away, and scaled to the shot's. */
export const starterLooks: readonly Look[] = [
  look('Portrait', effect('lens-blur', { focus: 2, aperture: 0.9 }), effect('vignette', { amount: -0.7 })),
  look(
    'Morning mist',
    effect('grade', { contrast: 92, temperature: -8 }),
    effect('fog', { visibility: 26, start: 1, low: true, eye: 0.5, thins: 1.4, patches: 50, size: 2.4, wind: 0.3 }),
    effect('lens-blur', { focus: 2, aperture: 4 }),
  ),
  look('Alone', effect('isolate', { from: 0, to: 2.6, dim: 2, drain: 100 }), effect('lens-blur', { focus: 2, aperture: 2.8 })),
  look(
    'Night watch',
    effect('grade', { exposure: -1.6, temperature: -45, saturation: 70, contrast: 112 }),
    effect('relight', { right: 0.5, up: 0.55, distance: 1.45, intensity: 1.1, size: 0.05, keep: 100, colour: '#ffc98a', hollows: 0.6 }),
    effect('glow', { level: 45, lift: 90 }),
    effect('grain', { amount: 2.5 }),
  ),
  look(
    'Golden hour',
    effect('grade', { temperature: 28, contrast: 108, shadows: 0.3 }),
    effect('relight', { light: 'sun', azimuth: 110, elevation: 14, strength: 0.5, keep: 80, colour: '#ffb36b', hollows: 0.6 }),
    effect('fog', { from: 'set', colour: '#f3c58e', visibility: 60, start: 1.2 }),
    effect('glow', { level: 60 }),
  ),
  look(
    'Attic dust',
    effect('grade', { contrast: 110, shadows: -0.4 }),
    effect('beams', { behind: 3, level: 30, amount: 140, over: 'air' }),
    effect('dust', { from: 0.5, to: 3.4, number: 40, size: 4, brightness: 160 }),
    effect('lens-blur', { focus: 2, aperture: 2 }),
  ),
  look(
    'Under water',
    effect('grade', { temperature: -40, tint: -20, saturation: 85 }),
    effect('fog', { from: 'set', colour: '#1d5560', visibility: 9, start: 0.2 }),
    effect('beams', { x: 50, y: -40, behind: 2.6, level: 20, amount: 90 }),
    effect('ripple', { amount: 5, size: 120, ...beyond(2.6) }),
  ),
  look(
    'Fever',
    effect('lens-blur', { focus: 2, aperture: 1.4 }),
    effect('fringe', { radial: 9 }),
    effect('shake', { place: 18, turn: 0.6, speed: 4, ...beyond(2.6) }),
    effect('flicker', { amount: 0.5, channels: 'each', ...beyond(2.6) }),
  ),
  look(
    'Old reel',
    effect('grade', { mono: true, contrast: 118 }),
    effect('vignette', { amount: -1.6 }),
    effect('grain', { amount: 6, size: 2.2 }),
    effect('shake', { place: 3, turn: 0.1, scale: 0, speed: 8, samples: 2 }),
    effect('flicker', { amount: 0.25 }),
  ),
  look(
    'Bad reception',
    effect('blocks', { quality: 10, ...beyond(2.6) }),
    effect('scan', { pitch: 4, offset: 10, colour: 5, noise: 10, ...beyond(2.6) }),
    effect('vignette', { amount: -0.8 }),
  ),
  look(
    'Paper theatre',
    effect('backdrop', { beyond: 2.7, what: 'ramp', colour: '#c9b48f', second: '#e9dcc3', stands: 9 }),
    effect('relight', { light: 'sun', azimuth: -120, elevation: 40, angle: 6, strength: 0.5, keep: 80, colour: '#fff0d8', hollows: 0.5 }),
    effect('vignette', { amount: -0.6 }),
  ),
  look(
    'Halo',
    effect('isolate', { from: 0, to: 2.6, dim: 1.2, drain: 30, tint: 40, colour: '#28406a' }),
    effect('stray-light', { amount: 40, speed: 0.15 }),
    effect('glow', { level: 30, amount: 80, lift: 120, size: 260, ...upTo(2.6) }),
    effect('echoes', { count: 3, x: 0, scale: 105, fade: 35, ...beyond(2.6) }),
  ),
];
