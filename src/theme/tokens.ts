import { DISTANCE_HUES } from '../core/raster/colour';

/** The colours of the interface. The only hues are those of distance; red is for errors alone. */
export const tokens = {
  surround: '#2a2a29',
  base: '#1a1a19',
  panel: '#1f1f1e',
  raise: '#2b2b29',
  line: 'rgba(239, 233, 220, 0.10)',
  line2: 'rgba(239, 233, 220, 0.18)',
  paper: '#efe9dc',
  text: '#e6e1d6',
  mute: '#a39f95',
  faint: '#8a867c',
  ...DISTANCE_HUES,
  alert: '#e5584d',
} as const;

export const fonts = {
  interface: '"Hanken Grotesk Variable", sans-serif',
  numbers: '"JetBrains Mono Variable", monospace',
} as const;
