import { moves } from '../core/camera/registry';
import { layerOf } from '../core/depth/layers/registry';
import { cleanups } from '../core/depth/cleanup/registry';
import { newCleanup, newEffect, newLayer, newMove } from '../core/document/defaults';
import type { Settings } from '../core/document/schema';
import { effects } from '../core/effects/registry';
import { seededRandom } from '../core/random';
import { easings, type Drive } from '../core/values/drive';
import { clampNumber, type NumberParam, type Param, type Params } from '../core/values/params';
import { copyOf } from '../core/values/copy';

/** Work on a shot by chance: one act after the other, the same for the same seed. */
export interface RandomWork {
  readonly settings: Settings;
  readonly frame: number;
  /** does something; says what */
  act(): string;
}

type Item = { values: Record<string, number | boolean | string>; drives: Record<string, Drive> };

/** Kinds of layers that need no file. */
const OWN_LAYERS = ['shape', 'ground', 'head', 'brush'];

/** Work that begins with these settings, on a shot of so many frames. */
export function randomWork(seed: number, begin: Settings, frames: number): RandomWork {
  const random = seededRandom(seed);
  const whole = (n: number): number => Math.floor(random() * n);
  const oneOf = <T>(list: readonly T[]): T => list[whole(list.length)]!;
  let settings = copyOf(begin);
  let frame = 0;
  let taken: Settings | null = null;
  const past: Settings[] = [];

  const usual = (p: NumberParam): number => clampNumber(p, Number((p.min + (p.max - p.min) * random()).toFixed(3)));
  const valueOf = (p: Param): number | boolean | string => {
    if (p.type === 'number') return p.highest === Infinity && random() < 0.15 ? Infinity : usual(p);
    if (p.type === 'toggle') return random() < 0.5;
    if (p.type === 'choice') return oneOf(p.options).value;
    return oneOf(['#c08040', '#204060', '#f0e8d8']);
  };
  const change = (item: Item, params: Params): string => {
    const [name, p] = oneOf(Object.entries(params));
    item.values[name] = valueOf(p);
    return `${name} = ${String(item.values[name])}`;
  };
  const drive = (item: Item, params: Params): string => {
    const numbers = Object.entries(params).filter((e): e is [string, NumberParam] => e[1].type === 'number' && !e[1].ofClips);
    if (numbers.length === 0) return 'nothing to drive';
    const [name, p] = oneOf(numbers);
    if (item.drives[name]) delete item.drives[name];
    else
      item.drives[name] = {
        kind: 'keys',
        keys: [0, frames - 1].map((f) => ({
          frame: f,
          value: random() < 0.1 && p.highest === Infinity ? Infinity : usual(p),
          easing: oneOf(easings),
        })),
      };
    return `drive of ${name}`;
  };
  const shape = () => {
    const [x, y, r] = [0.2 + 0.6 * random(), 0.2 + 0.6 * random(), 0.1 + 0.2 * random()];
    const corner = (dx: number, dy: number) => ({ x: x + r * dx, y: y + r * dy });
    const points = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
    return { id: `s${whole(1e6)}`, name: 'Box', points, nearness: random() };
  };
  const anyEffect = () => (settings.effects.length > 0 ? oneOf(settings.effects) : null);
  const paramsOf = (kind: string): Params => effects.find((e) => e.kind === kind)!.params;

  const acts: Record<string, () => string> = {
    'add effect': () => {
      if (settings.effects.length > 4) settings.effects.splice(whole(settings.effects.length), 1);
      const { kind } = oneOf(effects);
      settings.effects.splice(whole(settings.effects.length + 1), 0, { ...newEffect(kind), id: `e${whole(1e6)}` });
      return kind;
    },
    'change effect': () => {
      const item = anyEffect();
      return item ? `${item.kind}: ${change(item, paramsOf(item.kind))}` : 'none';
    },
    'drive effect': () => {
      const item = anyEffect();
      return item ? `${item.kind}: ${drive(item, paramsOf(item.kind))}` : 'none';
    },
    'switch effect': () => {
      const item = anyEffect();
      if (item) item.on = !item.on;
      return item?.kind ?? 'none';
    },
    limit: () => {
      const item = anyEffect();
      const marks = settings.layers.filter((l) => layerOf(l.kind).marks);
      if (!item || marks.length === 0) return 'none';
      if (item.region && random() < 0.4) delete item.region;
      else item.region = { layer: oneOf(marks).id, outside: random() < 0.3 };
      if ('reach' in item.values) Object.assign(item.values, { reach: random() < 0.5, reachFrom: 0.5 + 3 * random(), reachTo: 4 + 6 * random() });
      return item.kind;
    },
    layer: () => {
      if (settings.layers.length > 4) settings.layers.splice(1 + whole(settings.layers.length - 1), 1);
      const kind = oneOf(OWN_LAYERS);
      const layer = { ...newLayer(kind), id: `l${whole(1e6)}`, visible: random() < 0.7, opacity: random() < 0.5 ? 1 : 0.5 };
      if (layerOf(kind).marks) layer.content = { shapes: [shape()] };
      settings.layers.push(layer);
      return kind;
    },
    'change layer': () => {
      const layer = oneOf(settings.layers);
      if (layerOf(layer.kind).marks) layer.content = { shapes: [shape()] };
      else layer.opacity = 0.3 + 0.7 * random();
      if (random() < 0.3) layer.visible = !layer.visible;
      return layer.kind;
    },
    clean: () => {
      const { kind, params } = oneOf(cleanups);
      const found = settings.cleanup.find((c) => c.kind === kind);
      if (!found) settings.cleanup.push(newCleanup(kind));
      else if (random() < 0.4) found.on = !found.on;
      else if (Object.keys(params).length > 0) change(found, params);
      return kind;
    },
    calibrate: () => {
      Object.assign(settings.calibration, { near: 0.5 + 2 * random(), far: random() < 0.3 ? 'infinite' : 10 + 50 * random(), bend: 0.6 + random() });
      settings.calibration.spacing = oneOf(['perspective', 'even', 'log'] as const);
      return settings.calibration.spacing;
    },
    move: () => {
      const { moves: list } = settings.camera;
      if (list.length > 1 || (list.length > 0 && random() < 0.4)) list.splice(whole(list.length), 1);
      else {
        const { kind, params, amounts } = oneOf(moves);
        const item = { ...newMove(kind), id: `m${whole(1e6)}` };
        // small enough to stay in the scene
        for (const name of amounts) if (typeof item.values[name] === 'number') item.values[name] = 0.2 * Number(item.values[name]);
        if (random() < 0.5) drive(item, params);
        list.push(item);
      }
      return list.map((m) => m.kind).join();
    },
    border: () => {
      settings.camera.border = oneOf(['overscan', 'mirrored', 'smooth'] as const);
      if (random() < 0.3) settings.camera.firm = !settings.camera.firm;
      if (random() < 0.3) settings.camera.hidden = !settings.camera.hidden;
      return settings.camera.border;
    },
    framing: () => {
      Object.assign(settings.framing, { scale: 0.8 + random(), x: 0.2 * random() - 0.1, turns: random() < 0.2 ? whole(4) : settings.framing.turns });
      if (random() < 0.3) settings.drives['framing.x'] = { kind: 'ease', from: -5, to: 5, start: 0, end: frames - 1, easing: 'ease' };
      else delete settings.drives['framing.x'];
      return 'framing';
    },
    time: () => `${(frame = whole(frames))}`,
    take: () => {
      if (taken && random() < 0.5) settings = copyOf(taken);
      else taken = copyOf(settings);
      return 'take';
    },
    undo: () => {
      const before = past.pop();
      if (before) settings = before;
      return 'undo';
    },
  };
  const names = Object.keys(acts);
  return {
    get settings() {
      return settings;
    },
    get frame() {
      return frame;
    },
    act: () => {
      const name = oneOf(names);
      const before = copyOf(settings);
      const said = acts[name]!();
      if (name !== 'undo') past.push(before);
      return `${name}: ${said}`;
    },
  };
}
