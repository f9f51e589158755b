import { writeFileSync } from 'node:fs';
import { fitParts, fitPose, type PinnedMarks } from '../src/core/depth/layers/head/fit';
import { headLayer, poseOf, shapeOf, type HeadValues } from '../src/core/depth/layers/head/head';
import { keepPlace, strokeSchema, thinStroke, type Stroke } from '../src/core/depth/layers/brush/content';
import { shapeSchema, type Shape } from '../src/core/depth/layers/shape/content';
import { nearnessAtDistance } from '../src/core/depth/calibrate';
import { newLayer } from '../src/core/document/defaults';
import type { Layer } from '../src/core/document/schema';
import { defaultsOf } from '../src/core/values/params';

/** Writes what has been made by hand in the demo's depth stacks: `tsx demo/layers.ts`. Places are px of the 1600x900 plates. */
const [W, H] = [1600, 900];

interface Made {
  /** the exact depth lies under what is made, or above it */
  readonly exact: 'below' | 'above';
  readonly layers: readonly Layer[];
}

const at = (x: number, y: number): { x: number; y: number } => ({ x: keepPlace(x / W), y: keepPlace(y / H) });

function ground(): Layer {
  const layer = newLayer('ground');
  Object.assign(layer.values, { horizon: 34.7, soft: 0.3, nearest: 75 });
  return { ...layer, name: 'Beach' };
}

/** Marks as placed on the figurehead's face. */
const FACE: Record<string, [number, number]> = {
  eyeLeft: [555, 323],
  eyeRight: [655, 320],
  nose: [628, 372],
  mouthLeft: [570, 425],
  mouthRight: [655, 427],
  chin: [620, 500],
  crown: [545, 145],
  templeLeft: [480, 310],
  templeRight: [692, 310],
};

function head(): Layer {
  const layer = newLayer('head');
  const marks = Object.fromEntries(Object.entries(FACE).map(([name, [x, y]]) => [name, at(x, y)])) as PinnedMarks;
  const start = { ...defaultsOf(headLayer.params), yaw: 30 } as HeadValues;
  const pose = fitPose(marks, poseOf(start), shapeOf(start), W / H);
  const round = (v: number): number => Number(v.toFixed(2));
  Object.assign(layer.values, {
    yaw: round(pose.yaw),
    pitch: round(pose.pitch),
    roll: round(pose.roll),
    height: round(100 * pose.height),
    x: round(100 * pose.x),
    y: round(100 * pose.y),
    distance: 2.07,
    tall: 0.49,
    relief: 70,
    body: false,
    backdropOn: true,
    backdrop: 6,
  });
  for (const [part, p] of Object.entries(fitParts(marks, pose, shapeOf(start), W / H, [])))
    Object.assign(layer.values, { [`${part}Across`]: round(p.across), [`${part}Up`]: round(p.up) });
  return { ...layer, id: 'bust', name: 'Bust', content: { marks, locked: [] } };
}

/** The rest of the bust, tied to its head. */
function torso(): Layer {
  const outline: [number, number][] = [
    [398, 560],
    [372, 600],
    [300, 650],
    [283, 700],
    [330, 790],
    [395, 850],
    [412, 899],
    [690, 899],
    [716, 810],
    [770, 735],
    [800, 680],
    [760, 625],
    [716, 600],
    [706, 560],
    [550, 500],
  ];
  const shape = curve('torso', 'Torso', outline, { feather: 3, nearness: 0.4, tie: { layer: 'bust', offset: 0.04 } });
  return { ...newLayer('shape'), name: 'Torso', content: { shapes: [shape] } };
}

/** Nearness in the shot of the quay, whose map is in perspective spacing. */
const quay = (metres: number): number => nearnessAtDistance(metres, { near: 1.2, far: 600, spacing: 'perspective' });

/** A closed curve through points, rounded. */
function curve(id: string, name: string, points: readonly (readonly [number, number])[], more: Partial<Shape>): Shape {
  const n = points.length;
  return shapeSchema.parse({
    id,
    name,
    points: points.map(([x, y], i) => {
      const [before, after] = [points[(i + n - 1) % n]!, points[(i + 1) % n]!];
      const handle = at((after[0] - before[0]) / 6, (after[1] - before[1]) / 6);
      return { ...at(x, y), inX: -handle.x, inY: -handle.y, outX: handle.x, outY: handle.y };
    }),
    ...more,
  });
}

function quayShapes(): Layer {
  const around = (cx: number, cy: number, r: number): [number, number][] =>
    Array.from({ length: 6 }, (_, k) => [cx + r * Math.cos((k * Math.PI) / 3), cy + r * Math.sin((k * Math.PI) / 3)]);
  const shapes = [
    curve('glow', 'Glow of the lamp', around(508, 8, 70), { feather: 40, nearness: quay(6.4) }),
    curve(
      'pier',
      'Pier stone',
      [
        [1236, 748],
        [1330, 742],
        [1368, 800],
        [1372, 898],
        [1214, 898],
        [1222, 810],
      ],
      { feather: 4, nearness: quay(4.6), slope: { nearness: quay(5.2), ...slope(1290, 898, 1290, 745) } },
    ),
  ];
  return { ...newLayer('shape'), name: 'Lamp and pier', content: { shapes } };
}

function slope(x0: number, y0: number, x1: number, y1: number): { x0: number; y0: number; x1: number; y1: number } {
  const [a, b] = [at(x0, y0), at(x1, y1)];
  return { x0: a.x, y0: a.y, x1: b.x, y1: b.y };
}

function stroke(
  id: string,
  path: readonly (readonly [number, number])[],
  more: Omit<Stroke, 'id' | 'points' | 'softness' | 'edgeStop' | 'nearness'> & Partial<Stroke>,
): Stroke {
  const points: number[] = [];
  for (let i = 0; i + 1 < path.length; i++)
    for (let k = 0; k < 24; k++) {
      const t = k / 24;
      const [a, b] = [path[i]!, path[i + 1]!];
      const place = at(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t);
      points.push(place.x, place.y, 1);
    }
  return strokeSchema.parse({ id, points: thinStroke(points, more.radius, { width: W, height: H }), ...more });
}

function quayBrush(): Layer {
  const strokes = [
    stroke(
      'sky',
      [
        [720, 60],
        [1000, 90],
        [1240, 60],
      ],
      { mode: 'farther', radius: 70, softness: 0.8, amount: 0.05 },
    ),
    stroke(
      'water',
      [
        [1180, 520],
        [1420, 560],
        [1560, 640],
      ],
      { mode: 'smooth', radius: 60, softness: 0.6, amount: 0.8, edgeStop: 0.4 },
    ),
    stroke(
      'stones',
      [
        [250, 840],
        [480, 820],
        [700, 850],
      ],
      { mode: 'nearer', radius: 90, softness: 0.9, amount: 0.04 },
    ),
  ];
  return { ...newLayer('brush'), content: { strokes } };
}

const made: Record<string, Made> = {
  dunes: { exact: 'above', layers: [ground()] },
  figurehead: { exact: 'above', layers: [head(), torso()] },
  quayLamp: { exact: 'below', layers: [quayShapes(), quayBrush()] },
};
// the same ids every time, so that the file only changes when the work does
for (const [shot, { layers }] of Object.entries(made))
  layers.forEach((layer, i) => Object.assign(layer, { id: layer.id === 'bust' ? 'bust' : `${shot}-${i}` }));
writeFileSync('public/demo/layers.json', `${JSON.stringify(made, null, 1)}\n`);
