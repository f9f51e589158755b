/** Longest side of an output, px. */
export const OUTPUT_LIMIT = 12000;

/** Longest shot, frames. */
export const TIME_LIMIT = 36000;

/** So much may be in a project, so that its lists stay fluent. */
export const LIMITS = {
  shots: { most: 1000, of: 'shots', in: 'a project' },
  layers: { most: 200, of: 'depth layers', in: 'a shot' },
  effects: { most: 100, of: 'effects', in: 'a shot' },
  moves: { most: 40, of: 'moves', in: 'a shot' },
  cleanup: { most: 50, of: 'clean-up steps', in: 'a shot' },
  stakes: { most: 500, of: 'stakes', in: 'a shot' },
  takes: { most: 200, of: 'takes', in: 'a shot' },
  keys: { most: 20000, of: 'keys', in: 'a drive' },
  strokes: { most: 5000, of: 'strokes', in: 'a layer' },
  shapes: { most: 500, of: 'shapes', in: 'a layer' },
  flats: { most: 500, of: 'flats', in: 'a layer' },
  keyed: { most: 1000, of: 'keys', in: 'a layer' },
} as const;
