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

/** What is done, by what it is called; each says what it did. */
type Acts = Readonly<Record<string, () => string>>;

/** Kinds of layers that need no file. */
const OWN_LAYERS = ['shape', 'ground', 'head', 'brush'];

/** What is left to chance. */
class Chance {
  readonly random: () => number;

  constructor(
    seed: number,
    /** of the shot */
    readonly frames: number,
  ) {
    this.random = seededRandom(seed);
  }

  whole(n: number): number {
    return Math.floor(this.random() * n);
  }

  oneOf<T>(list: readonly T[]): T {
    return list[this.whole(list.length)]!;
  }

  usual(p: NumberParam): number {
    return clampNumber(p, Number((p.min + (p.max - p.min) * this.random()).toFixed(3)));
  }

  valueOf(p: Param): number | boolean | string {
    if (p.type === 'number') return p.highest === Infinity && this.random() < 0.15 ? Infinity : this.usual(p);
    if (p.type === 'toggle') return this.random() < 0.5;
    if (p.type === 'choice') return this.oneOf(p.options).value;
    return this.oneOf(['#c08040', '#204060', '#f0e8d8']);
  }

  /** one value of an item becomes another */
  change(item: Item, params: Params): string {
    const [name, p] = this.oneOf(Object.entries(params));
    item.values[name] = this.valueOf(p);
    return `${name} = ${String(item.values[name])}`;
  }

  /** a number of an item is driven, or no longer */
  drive(item: Item, params: Params): string {
    const numbers = Object.entries(params).filter((e): e is [string, NumberParam] => e[1].type === 'number' && !e[1].ofClips);
    if (numbers.length === 0) return 'nothing to drive';
    const [name, p] = this.oneOf(numbers);
    const key = (frame: number) => ({
      frame,
      value: this.random() < 0.1 && p.highest === Infinity ? Infinity : this.usual(p),
      easing: this.oneOf(easings),
    });
    if (item.drives[name]) delete item.drives[name];
    else item.drives[name] = { kind: 'keys', keys: [0, this.frames - 1].map(key) };
    return `drive of ${name}`;
  }

  shape() {
    const [x, y, r] = [0.2 + 0.6 * this.random(), 0.2 + 0.6 * this.random(), 0.1 + 0.2 * this.random()];
    const corner = (dx: number, dy: number) => ({ x: x + r * dx, y: y + r * dy });
    const points = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
    return { id: `s${this.whole(1e6)}`, name: 'Box', points, nearness: this.random() };
  }
}

function effectActs(chance: Chance, of: () => Settings): Acts {
  const anyEffect = () => (of().effects.length > 0 ? chance.oneOf(of().effects) : null);
  const paramsOf = (kind: string): Params => effects.find((e) => e.kind === kind)!.params;
  return {
    'add effect': () => {
      if (of().effects.length > 4) of().effects.splice(chance.whole(of().effects.length), 1);
      const { kind } = chance.oneOf(effects);
      of().effects.splice(chance.whole(of().effects.length + 1), 0, { ...newEffect(kind), id: `e${chance.whole(1e6)}` });
      return kind;
    },
    'change effect': () => {
      const item = anyEffect();
      return item ? `${item.kind}: ${chance.change(item, paramsOf(item.kind))}` : 'none';
    },
    'drive effect': () => {
      const item = anyEffect();
      return item ? `${item.kind}: ${chance.drive(item, paramsOf(item.kind))}` : 'none';
    },
    'switch effect': () => {
      const item = anyEffect();
      if (item) item.on = !item.on;
      return item?.kind ?? 'none';
    },
    limit: () => {
      const item = anyEffect();
      const marks = of().layers.filter((l) => layerOf(l.kind).limits);
      if (!item || marks.length === 0) return 'none';
      if (item.region && chance.random() < 0.4) delete item.region;
      else item.region = { layer: chance.oneOf(marks).id, outside: chance.random() < 0.3 };
      if ('reach' in item.values)
        Object.assign(item.values, { reach: chance.random() < 0.5, reachFrom: 0.5 + 3 * chance.random(), reachTo: 4 + 6 * chance.random() });
      return item.kind;
    },
  };
}

function layerActs(chance: Chance, of: () => Settings): Acts {
  return {
    layer: () => {
      if (of().layers.length > 4) of().layers.splice(1 + chance.whole(of().layers.length - 1), 1);
      const kind = chance.oneOf(OWN_LAYERS);
      const layer = { ...newLayer(kind), id: `l${chance.whole(1e6)}`, visible: chance.random() < 0.7, opacity: chance.random() < 0.5 ? 1 : 0.5 };
      if (layerOf(kind).limits) layer.content = { shapes: [chance.shape()] };
      of().layers.push(layer);
      return kind;
    },
    'change layer': () => {
      const layer = chance.oneOf(of().layers);
      if (layerOf(layer.kind).limits) layer.content = { shapes: [chance.shape()] };
      else layer.opacity = 0.3 + 0.7 * chance.random();
      if (chance.random() < 0.3) layer.visible = !layer.visible;
      return layer.kind;
    },
    clean: () => {
      const { kind, params } = chance.oneOf(cleanups);
      const found = of().cleanup.find((c) => c.kind === kind);
      if (!found) of().cleanup.push(newCleanup(kind));
      else if (chance.random() < 0.4) found.on = !found.on;
      else if (Object.keys(params).length > 0) chance.change(found, params);
      return kind;
    },
  };
}

function shotActs(chance: Chance, of: () => Settings): Acts {
  return {
    calibrate: () => {
      Object.assign(of().calibration, {
        near: 0.5 + 2 * chance.random(),
        far: chance.random() < 0.3 ? 'infinite' : 10 + 50 * chance.random(),
        bend: 0.6 + chance.random(),
      });
      of().calibration.spacing = chance.oneOf(['perspective', 'even', 'log'] as const);
      return of().calibration.spacing;
    },
    move: () => {
      const { moves: list } = of().camera;
      if (list.length > 1 || (list.length > 0 && chance.random() < 0.4)) list.splice(chance.whole(list.length), 1);
      else {
        const { kind, params, amounts } = chance.oneOf(moves);
        const item = { ...newMove(kind), id: `m${chance.whole(1e6)}` };
        // small enough to stay in the scene
        for (const name of amounts) if (typeof item.values[name] === 'number') item.values[name] = 0.2 * Number(item.values[name]);
        if (chance.random() < 0.5) chance.drive(item, params);
        list.push(item);
      }
      return list.map((m) => m.kind).join();
    },
    border: () => {
      of().camera.border = chance.oneOf(['overscan', 'mirrored', 'smooth'] as const);
      if (chance.random() < 0.3) of().camera.firm = !of().camera.firm;
      if (chance.random() < 0.3) of().camera.hidden = !of().camera.hidden;
      return of().camera.border;
    },
    framing: () => {
      Object.assign(of().framing, {
        scale: 0.8 + chance.random(),
        x: 0.2 * chance.random() - 0.1,
        turns: chance.random() < 0.2 ? chance.whole(4) : of().framing.turns,
      });
      if (chance.random() < 0.3) of().drives['framing.x'] = { kind: 'ease', from: -5, to: 5, start: 0, end: chance.frames - 1, easing: 'ease' };
      else delete of().drives['framing.x'];
      return 'framing';
    },
  };
}

/** Work that begins with these settings, on a shot of so many frames. */
export function randomWork(seed: number, begin: Settings, frames: number): RandomWork {
  const chance = new Chance(seed, frames);
  let settings = copyOf(begin);
  let frame = 0;
  let taken: Settings | null = null;
  const past: Settings[] = [];
  const now = (): Settings => settings;
  const acts: Acts = {
    ...effectActs(chance, now),
    ...layerActs(chance, now),
    ...shotActs(chance, now),
    time: () => `${(frame = chance.whole(frames))}`,
    take: () => {
      if (taken && chance.random() < 0.5) settings = copyOf(taken);
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
      const name = chance.oneOf(names);
      const before = copyOf(settings);
      const said = acts[name]!();
      if (name !== 'undo') past.push(before);
      return `${name}: ${said}`;
    },
  };
}
