import { focalLengthOfHfov, hfovOfFocalLength } from '../optics';
import { count, degrees, level, metres, millimetres, percent, type NumberParam } from '../values/params';
import { calibrationOf, storedFar } from './calibrationOf';
import { OUTPUT_LIMIT } from '../limits';
import type { Settings } from './schema';

/** A number of a shot that belongs to no layer, effect or move: how it is shown and read, and where it is kept. */
export interface ShotNumber {
  readonly param: NumberParam;
  get(settings: Settings): number;
  /** in place; ends of the map do not pass each other */
  set(settings: Settings, value: number): void;
}

const pixelCount = (label: string): NumberParam => ({
  ...count({ label, min: 16, max: 4000, highest: OUTPUT_LIMIT, default: 1600 }),
  unit: 'px',
  scale: 'log',
});

const share = (label: string, help: string): NumberParam =>
  percent({ label, min: -100, max: 100, lowest: -500, highest: 500, decimals: 1, default: 0, help });

const grey = (label: string, usual: number, help: string): NumberParam =>
  percent({ label, min: 0, max: 100, decimals: 1, step: 0.5, default: usual, help });

const numbers = {
  'framing.scale': {
    param: percent({
      label: 'Scale',
      min: 10,
      max: 400,
      lowest: 5,
      highest: 2000,
      decimals: 1,
      step: 1,
      default: 100,
      help: 'On top of fit or fill',
    }),
    get: (s) => 100 * s.framing.scale,
    set: (s, v) => void (s.framing.scale = v / 100),
  },
  'framing.x': {
    param: share('Right by', 'Share of the output’s width'),
    get: (s) => 100 * s.framing.x,
    set: (s, v) => void (s.framing.x = v / 100),
  },
  'framing.y': {
    param: share('Down by', 'Share of the output’s height'),
    get: (s) => 100 * s.framing.y,
    set: (s, v) => void (s.framing.y = v / 100),
  },
  'lens.focalLength': {
    param: {
      ...millimetres({
        label: 'Focal length',
        min: 10,
        max: 400,
        lowest: 2,
        highest: 2000,
        decimals: 1,
        default: 35,
        help: '35 mm-equivalent: as if the plate were 36 mm wide',
      }),
      scale: 'log',
    },
    get: (s) => focalLengthOfHfov(s.hfovDegrees),
    set: (s, v) => void (s.hfovDegrees = hfovOfFocalLength(v)),
  },
  'lens.hfov': {
    param: degrees({ label: 'Field of view', min: 5, max: 130, lowest: 1, highest: 170, default: 54.4, help: 'Horizontal, of the whole plate' }),
    get: (s) => s.hfovDegrees,
    set: (s, v) => void (s.hfovDegrees = v),
  },
  'calibration.low': {
    param: grey('Black from', 0, 'Grey of the raw map that becomes the far end'),
    get: (s) => 100 * s.calibration.low,
    set: (s, v) => void (s.calibration.low = Math.min(v / 100, s.calibration.high - 0.005)),
  },
  'calibration.high': {
    param: grey('White from', 100, 'Grey of the raw map that becomes the near end'),
    get: (s) => 100 * s.calibration.high,
    set: (s, v) => void (s.calibration.high = Math.max(v / 100, s.calibration.low + 0.005)),
  },
  'calibration.bend': {
    param: {
      ...level({ label: 'Bend', min: 0.1, max: 10, default: 1, help: 'Gamma of the map between its ends: above 1 pushes the middle away' }),
      scale: 'log',
    },
    get: (s) => s.calibration.bend,
    set: (s, v) => void (s.calibration.bend = v),
  },
  'calibration.near': {
    param: metres({ label: 'Near end', min: 0.1, max: 1000, lowest: 0.01, highest: 1e6, default: 1, help: 'Distance that white stands for' }),
    get: (s) => s.calibration.near,
    set: (s, v) => void (s.calibration.near = Math.min(v, calibrationOf(s.calibration).far * 0.98)),
  },
  'calibration.far': {
    param: metres({
      label: 'Far end',
      min: 0.2,
      max: 20000,
      lowest: 0.02,
      highest: Infinity,
      default: Infinity,
      help: 'Distance that black stands for; ∞ may be typed',
    }),
    get: (s) => calibrationOf(s.calibration).far,
    set: (s, v) => void (s.calibration.far = storedFar(Math.max(v, s.calibration.near * 1.02))),
  },
} satisfies Record<string, ShotNumber>;

export type ShotNumberName = keyof typeof numbers;

/** Every number of a shot that can have a drive, by the name of its drive in `settings.drives`. */
export const shotNumbers: Readonly<Record<string, ShotNumber>> & Readonly<Record<ShotNumberName, ShotNumber>> = numbers;

/** Width and height of the output: whole pixels, the same at every frame, so they have no drive. */
export const outputSides = { width: pixelCount('Width'), height: pixelCount('Height') };
