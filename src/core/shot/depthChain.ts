import { calibrateMap, type Calibration } from '../depth/calibrate';
import { cleanups } from '../depth/cleanup/registry';
import { layerOf } from '../depth/layers/registry';
import { EMPTY_RAW, emptyStack } from '../depth/stack';
import { calibrationOf } from '../document/calibrationOf';
import { isShared, newPicture, newPlane, type Picture, type Plane } from '../picture';
import { paramsAt } from '../values/moment';
import { addressOf } from '../key';
import { layAll, mendingOf, namesOf, placeLayers, type Mending } from './placing';
import { sized, stepOf } from './stepOf';
import { framedPlate, lazily, remember, type ChainInputs, type ShotRequest, type Stage } from './stage';

/** One clean-up step: what goes in, what comes out. */
export interface CleanedStep {
  readonly kind: string;
  readonly before: Stage<Plane>;
  readonly after: Stage<Plane>;
}

/** The depth of a shot where its plate was taken, from the stack to distances; each part is made when it is first read. */
export interface Depth {
  /** the stack as it is laid, before clean-up: raw map 0..1 in the framed output, NaN where nothing is known */
  readonly stack: Stage<Plane>;
  /** the steps of clean-up that are on, in their order */
  readonly steps: readonly CleanedStep[];
  /** the stack after them */
  readonly cleaned: Stage<Plane>;
  /** the map that calibration reads, 0..1: what is still unknown lies at the far end */
  readonly raw: Stage<Plane>;
  /** metres */
  readonly distance: Stage<Plane>;
}

export function depthOf(request: ShotRequest, inputs: ChainInputs): Depth {
  const plate = framedPlate(request, inputs);
  const { stack, steps, cleaned } = cleanedStack(request, inputs, plate);
  const raw = rawMap(cleaned, inputs);
  return { stack, steps, cleaned, raw, distance: distances(raw, request, inputs) };
}

/** Distances in metres in the framed output. */
export const distanceMap = (request: ShotRequest, inputs: ChainInputs): Stage<Plane> => depthOf(request, inputs).distance;

function stackMap(request: ShotRequest, inputs: ChainInputs, plate: Stage<Picture>, mending: Mending | null): Stage<Plane> {
  const { width, height } = request.size;
  const nothing = !request.settings.layers.some((l) => l.visible);
  const below = lazily(() => emptyStack(width, height, nothing, inputs.run.shared));
  const placed = placeLayers(request, inputs, plate, below, mending);
  const address = addressOf((of) => ['stack', of({ fingerprint: null, key: request.size }), namesOf(placed, of)]);
  return remember(inputs.cache, address, () => {
    if (!layAll(placed, below, inputs)) below.value.data.fill(EMPTY_RAW);
    return below.value;
  });
}

function cleanedStack(request: ShotRequest, inputs: ChainInputs, plate: Stage<Picture>): Pick<Depth, 'stack' | 'steps' | 'cleaned'> {
  const { settings, size, at } = request;
  const { cache, run } = inputs;
  const mending = mendingOf(request);
  let current = stackMap(request, inputs, plate, mending);
  // the stack without what was mended before enlarging: what the steps up to the one that mends are compared with
  let unmended = mending ? stackMap(request, inputs, plate, null) : current;
  const stack = unmended;
  const enlarged = unmended.key !== current.key;
  const steps: CleanedStep[] = [];
  for (const definition of cleanups) {
    const item = settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item) continue;
    const params = paramsAt(definition, item, at);
    const pxScale = size.width / settings.framing.width;
    const clean = (from: Stage<Plane>): Stage<Plane> => {
      const reads = { map: from, picture: plate, kind: item.kind, params, pxScale: sized(pxScale), enlarged: sized(enlarged) };
      return stepOf(cache, 'clean', reads, (read) => {
        const after = definition.apply(read);
        run.checkpoint(0);
        return run.shared && !isShared(after.data) ? copyShared(after) : after;
      });
    };
    const before = unmended;
    const same = unmended.key === current.key;
    current = clean(current);
    unmended = same || definition.mend ? current : clean(unmended);
    steps.push({ kind: item.kind, before, after: current });
  }
  return { stack, steps, cleaned: current };
}

function copyShared(plane: Plane): Plane {
  const out = newPlane(plane.width, plane.height, true);
  out.data.set(plane.data);
  return out;
}

/** Whether anything of a map is not known. */
function hasUnknown({ data }: Plane): boolean {
  for (let i = 0; i < data.length; i++) if (data[i] !== data[i]) return true;
  return false;
}

function rawMap(cleaned: Stage<Plane>, { cache, run }: ChainInputs): Stage<Plane> {
  return stepOf(cache, 'raw', { cleaned }, ({ cleaned: map }) => {
    if (!hasUnknown(map)) return map;
    const out = newPlane(map.width, map.height, run.shared);
    for (let i = 0; i < out.data.length; i++) out.data[i] = map.data[i] === map.data[i] ? map.data[i]! : 0;
    return out;
  });
}

function distances(raw: Stage<Plane>, { settings }: ShotRequest, { cache, run }: ChainInputs): Stage<Plane> {
  const { low, high, turnOver, bend, near, far, spacing }: Calibration = calibrationOf(settings.calibration);
  const calibration = { low, high, turnOver, bend, near, far, spacing };
  return stepOf(cache, 'distance', { raw, calibration }, (read) => calibrateMap(read.raw, read.calibration, run.shared));
}

/** The framed plate with what layers stage laid over it, hidden by what is nearer where their layer says so. */
export function composedPlate(request: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const { width, height } = request.size;
  const plate = framedPlate(request, inputs);
  if (!request.settings.layers.some((l) => l.visible && layerOf(l.kind).paint)) return plate;
  const stack = lazily(() => emptyStack(width, height, false));
  const placed = placeLayers(request, inputs, plate, stack);
  const address = addressOf((of) => ['composed', of(plate), namesOf(placed, of)]);
  return remember(inputs.cache, address, () => {
    const out = newPicture(width, height, inputs.run.shared);
    out.data.set(plate.value.data);
    const below = stack.value;
    layAll(placed, stack, inputs, ({ layer, definition, over }, { nearness }) => {
      const picture = definition.paint?.(over);
      if (!picture) return;
      const light = definition.shade?.(over);
      if (light)
        for (let i = 0; i < light.data.length; i++) {
          const left = 1 - layer.opacity * (1 - light.data[i]!);
          for (let k = 0; k < 3; k++) out.data[i * 4 + k]! *= left;
        }
      for (let i = 0; i < below.data.length; i++) {
        const o = i * 4;
        const hidden = layer.blend === 'nearer' && nearness.data[i]! < below.data[i]!;
        if (hidden || picture.data[o + 3] === 0) continue;
        const rest = 1 - layer.opacity * picture.data[o + 3]!;
        for (let k = 0; k < 4; k++) out.data[o + k] = layer.opacity * picture.data[o + k]! + out.data[o + k]! * rest;
      }
    });
    return out;
  });
}
