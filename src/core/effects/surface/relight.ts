import * as z from 'zod';
import { depthField } from '../../light/depthField';
import type { Light, Surfaces } from '../../light/lights';
import { relit } from '../../light/relight';
import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import type { Picture } from '../../picture';
import { choice, colour, degrees, formatMetres, level, metres, metresAside, percent, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type EffectNeed } from '../definition';

const LAMP = { light: ['lamp'] };
const SUN = { light: ['sun'] };
const SURROUND = { light: ['surround'] };
const PICTURE = { light: ['picture'] };
const CASTS = { light: ['lamp', 'sun'] };

const params = {
  light: choice({
    section: 'Light',
    label: 'Light',
    default: 'lamp',
    options: [
      { value: 'lamp', label: 'Lamp' },
      { value: 'sun', label: 'Sun' },
      { value: 'surround', label: 'Surround' },
      { value: 'picture', label: 'Picture' },
    ],
    help: 'Picture: light from a picture of surroundings, .hdr, .exr or .jpg',
  }),
  intensity: level({
    section: 'Light',
    label: 'Brightness',
    min: 0.01,
    max: 1000,
    lowest: 0,
    highest: 1e7,
    scale: 'log',
    default: 3,
    only: LAMP,
    help: 'Light on a white sheet 1 m away, in units of white',
  }),
  strength: level({
    section: 'Light',
    label: 'Brightness',
    min: 0,
    max: 10,
    highest: 1e5,
    default: 0.6,
    only: { light: ['sun', 'surround', 'picture'] },
    help: 'Light on a white sheet, in units of white',
  }),
  colour: colour({ section: 'Light', label: 'Colour', default: '#ffd9ad' }),
  below: colour({ section: 'Light', label: 'From below', default: '#3a3226', only: SURROUND }),
  right: metresAside({
    section: 'Place',
    label: 'Right',
    min: -20,
    max: 20,
    lowest: -1e5,
    highest: 1e5,
    default: 0.6,
    only: LAMP,
    help: 'From the middle of the view',
  }),
  up: metresAside({
    section: 'Place',
    label: 'Up',
    min: -20,
    max: 20,
    lowest: -1e5,
    highest: 1e5,
    default: 0.6,
    only: LAMP,
    help: 'From the middle of the view',
  }),
  distance: metres({
    section: 'Place',
    label: 'Distance',
    min: 0.1,
    max: 300,
    lowest: -1e5,
    highest: 1e5,
    default: 1.5,
    only: LAMP,
    help: 'From the camera; negative behind it',
  }),
  size: metres({
    section: 'Place',
    label: 'Radius',
    min: 0,
    max: 2,
    highest: 1e4,
    scale: 'linear',
    default: 0.04,
    only: LAMP,
    help: 'A larger lamp casts softer shadows',
  }),
  azimuth: degrees({
    section: 'Place',
    label: 'From',
    min: -180,
    max: 180,
    decimals: 0,
    default: 60,
    only: SUN,
    help: 'Right of straight ahead; 180° is behind the camera',
  }),
  elevation: degrees({ section: 'Place', label: 'Height', min: -90, max: 90, decimals: 0, default: 35, only: SUN }),
  angle: degrees({ section: 'Place', label: 'Width', min: 0, max: 20, highest: 90, default: 0.5, only: SUN, help: 'Its diameter as it is seen' }),
  turn: degrees({ section: 'Place', label: 'Turn', min: -180, max: 180, decimals: 0, default: 0, only: PICTURE }),
  shadows: toggle({ section: 'Surface', label: 'Shadows', default: true, only: CASTS }),
  relief: percent({ section: 'Surface', label: 'Relief', min: 0, max: 300, highest: 1000, default: 100 }),
  gloss: percent({ section: 'Surface', label: 'Gloss', min: 0, max: 100, highest: 1000, default: 0, only: CASTS }),
  roughness: percent({ section: 'Surface', label: 'Roughness', min: 5, max: 100, lowest: 1, default: 45, only: CASTS }),
  keep: percent({ section: 'Plate’s light', label: 'Keep', min: 0, max: 200, default: 70, help: 'How much of the light that is there stays' }),
  even: level({
    section: 'Plate’s light',
    label: 'Level',
    min: 0,
    max: 2,
    highest: 1e4,
    default: 0,
    names: { 0: 'found' },
    help: 'Light on a white sheet in the plate: less makes surfaces paler; found from its bright parts at 0',
  }),
  shading: percent({
    section: 'Plate’s light',
    label: 'Shading out',
    min: 0,
    max: 100,
    default: 100,
    help: 'Takes the shading of an even sky out of the plate',
  }),
  hollows: metres({
    section: 'Plate’s light',
    label: 'Hollows within',
    min: 0,
    max: 10,
    highest: 1e4,
    scale: 'linear',
    default: 1,
    help: 'So far off things count that hide the sky',
  }),
  balance: percent({
    section: 'Plate’s light',
    label: 'Colour out',
    min: 0,
    max: 100,
    default: 50,
    help: 'Takes the plate’s own colour of light out, by its mean',
  }),
};
export type RelightValues = ValuesOf<typeof params>;

const rgb = z.tuple([z.number(), z.number(), z.number()]);
const point = rgb;

/** Lights told in numbers besides the one that the settings describe; and the harmonics of a picture of surroundings. */
const contentSchema = z.object({
  /** at most eight in all */
  lights: z
    .array(
      z.discriminatedUnion('is', [
        z.object({ is: z.literal('lamp'), place: point, intensity: rgb, size: z.number().min(0).default(0) }),
        z.object({ is: z.literal('sun'), direction: point, irradiance: rgb, size: z.number().min(0).default(0) }),
        z.object({ is: z.literal('surround'), above: rgb, below: rgb }),
        z.object({
          is: z.literal('picture'),
          harmonics: z.array(z.number()).length(27),
          turn: z.number().default(0),
          gain: rgb.default([1, 1, 1]),
        }),
      ]),
    )
    .max(8)
    .nullable()
    .default(null),
  /** of the picture of surroundings, and what it is called */
  surroundings: z
    .object({ name: z.string().max(200), harmonics: z.array(z.number()).length(27) })
    .nullable()
    .default(null),
});
export type RelightContent = z.infer<typeof contentSchema>;

const times = (hex: string, gain: number): [number, number, number] => {
  const [r, g, b] = parseHex(hex).map(srgbToLinear);
  return [r! * gain, g! * gain, b! * gain];
};

/** Light of white from all round: what a picture of surroundings gives before one was chosen. */
const WHITE = [Math.sqrt(4 * Math.PI), Math.sqrt(4 * Math.PI), Math.sqrt(4 * Math.PI), ...new Array<number>(24).fill(0)];

/** The lights of an effect: those told in numbers, or the one that its settings describe. */
export function lightsOf(p: RelightValues, { lights, surroundings }: RelightContent): readonly Light[] {
  if (lights) return lights;
  switch (p.light) {
    case 'lamp':
      return [{ is: 'lamp', place: [p.right, -p.up, p.distance], intensity: times(p.colour, Math.PI * p.intensity), size: p.size }];
    case 'sun': {
      const [a, e] = [(p.azimuth * Math.PI) / 180, (p.elevation * Math.PI) / 180];
      const direction = [Math.sin(a) * Math.cos(e), -Math.sin(e), Math.cos(a) * Math.cos(e)] as const;
      return [{ is: 'sun', direction, irradiance: times(p.colour, Math.PI * p.strength), size: (p.angle * Math.PI) / 360 }];
    }
    case 'surround':
      return [{ is: 'surround', above: times(p.colour, p.strength), below: times(p.below, p.strength) }];
    default:
      return [{ is: 'picture', harmonics: surroundings?.harmonics ?? WHITE, turn: (p.turn * Math.PI) / 180, gain: times(p.colour, p.strength) }];
  }
}

/** What is brighter than so much of a plate counts as white paper. */
const BRIGHT = 0.92;
const LOOKED_AT = 20_000;

/** The light on a white sheet, as the bright parts of a plate tell it. */
export function evenLevel({ data }: Picture): number {
  const step = Math.max(1, Math.floor(data.length / 4 / LOOKED_AT));
  const found: number[] = [];
  for (let o = 0; o < data.length; o += 4 * step) if (data[o + 3]! > 0.5) found.push(luminance(data[o]!, data[o + 1]!, data[o + 2]!));
  found.sort((a, b) => a - b);
  return Math.min(1, Math.max(0.04, (found[Math.floor(found.length * BRIGHT)] ?? 1) / 0.8));
}

const surfacesOf = (p: RelightValues, plate: Picture): Surfaces => ({
  even: p.even > 0 ? p.even : evenLevel(plate),
  shading: p.shading / 100,
  hollows: p.hollows,
  balance: p.balance / 100,
  gloss: p.gloss / 100,
  roughness: p.roughness / 100,
  relief: p.relief / 100,
  shadows: p.shadows,
});

function apply({ picture, plate, distance, lens, params: p, content, run, quick, fromDepth }: EffectInput<RelightValues, RelightContent>): Picture {
  const onProgress = (share: number): void => run.checkpoint(share);
  return relit(picture, plate, depthField(distance, lens.focalPx), lightsOf(p, content), surfacesOf(p, plate), p.keep / 100, fromDepth, {
    shared: run.shared,
    quick,
    onProgress: onProgress,
  });
}

/** A light set into the picture: shading by normals, shadows by sweeps over the map, shine; the plate's own light dimmed. */
export const relight = defineEffect({
  kind: 'relight',
  group: 'surface',
  label: 'Relight',
  help: 'Sets a lamp, a sun, a surround or a picture’s light into the scene; several add up',
  params,
  content: contentSchema,
  needs: (): EffectNeed[] => ['distance', 'lens', 'plate', 'depth'],
  startOn: ({ subject, tangentX, tangentY }) => {
    const digits = (v: number): number => Number(v.toPrecision(3));
    const distance = digits(0.72 * subject);
    const [right, up] = [digits(0.42 * tangentX * distance), digits(0.5 * tangentY * distance)];
    const away = Math.hypot(right, up, subject - distance);
    return {
      right,
      up,
      distance,
      size: digits(0.02 * subject),
      intensity: digits(1.9 * away * away),
      hollows: digits(Math.max(0.05, 0.3 * subject)),
    };
  },
  place: { right: 'right', up: 'up', distance: 'distance' },
  summary: (p) => (p.light === 'lamp' ? formatMetres(p.distance) : p.light),
  lane: (p) => {
    if (p.light !== 'lamp') return null;
    const near = Math.max(0.01, p.distance);
    const falloff = Math.sqrt(Math.max(1e-6, p.intensity));
    return {
      caption: `Relight: lamp at ${formatMetres(p.distance)}`,
      // by the square of distance: where it gives white half its light
      points: [-2, -1, -0.5, 0, 0.5, 1, 2].map((k) => ({ distance: Math.max(0.01, near + k * falloff), strength: 1 / (1 + k * k) })),
      handles: [{ param: 'distance', distance: near }],
    };
  },
  apply,
});
