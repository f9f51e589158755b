import { calibrateMap, type Calibration } from '../depth/calibrate';
import { cleanups } from '../depth/cleanup/registry';
import { layerOf } from '../depth/layers/registry';
import { EMPTY_RAW, emptyStack } from '../depth/stack';
import { calibrationOf } from '../document/calibrationOf';
import { isShared, newPicture, newPlane, type Picture, type Plane } from '../picture';
import { paramsAt } from '../values/moment';
import { addressOf } from '../key';
import { layAll, mendingOf, namesOf, placeLayers } from './placing';
import { framedPlate, remember, type ChainInputs, type ShotRequest, type Stage } from './stage';

/** The depth stack as it is laid, before clean-up: raw map 0..1 in the framed output, NaN where nothing is known. */
export function stackMap(request: ShotRequest, inputs: ChainInputs, mending = mendingOf(request)): Stage<Plane> {
  const { width, height } = request.size;
  const plate = framedPlate(request, inputs);
  const below = emptyStack(width, height, !request.settings.layers.some((l) => l.visible), inputs.run.shared);
  const placed = placeLayers(request, inputs, plate, below, mending);
  const address = addressOf((of) => ['stack', of({ look: null, key: request.size }), namesOf(placed, of)]);
  return remember(inputs.cache, address, () => {
    if (!layAll(placed, below, inputs)) below.data.fill(EMPTY_RAW);
    return below;
  });
}

/** One clean-up step as it ran: what went in, what came out. */
export interface CleanedStep {
  readonly kind: string;
  readonly before: Plane;
  readonly after: Plane;
}

/** The steps of clean-up that are on, in their order, over the stack. */
export function cleanSteps(request: ShotRequest, inputs: ChainInputs): Stage<{ steps: readonly CleanedStep[]; map: Plane; stack: Stage<Plane> }> {
  const { settings, size, at } = request;
  const { cache, run } = inputs;
  const plate = framedPlate(request, inputs);
  let current = stackMap(request, inputs);
  // the stack without what was mended before enlarging: what the steps up to the one that mends are compared with
  let unmended = mendingOf(request) ? stackMap(request, inputs, null) : current;
  const stack = unmended;
  const enlarged = unmended.key !== current.key;
  const steps: CleanedStep[] = [];
  for (const definition of cleanups) {
    const item = settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item) continue;
    const params = paramsAt(definition, item, at);
    const pxScale = size.width / settings.framing.width;
    const clean = (from: Stage<Plane>): Stage<Plane> => {
      const address = addressOf((of) => ['clean', of(from), of(plate), item.kind, params, of({ look: null, key: [pxScale, enlarged] })]);
      return remember(cache, address, () => {
        const after = definition.apply({ map: from.value, picture: plate.value, params, pxScale, enlarged });
        return run.shared && !isShared(after.data) ? copyShared(after) : after;
      });
    };
    const before = unmended.value;
    const same = unmended.key === current.key;
    current = clean(current);
    unmended = same || definition.mend ? current : clean(unmended);
    run.checkpoint(0);
    steps.push({ kind: item.kind, before, after: current.value });
  }
  return { look: current.look, key: current.key, value: { steps, map: current.value, stack } };
}

function copyShared(plane: Plane): Plane {
  const out = newPlane(plane.width, plane.height, true);
  out.data.set(plane.data);
  return out;
}

/** The map that calibration reads: the cleaned stack, 0..1; what is still unknown lies at the far end. */
export function rawMap(request: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const cleaned = cleanSteps(request, inputs);
  const { map } = cleaned.value;
  return remember(
    inputs.cache,
    addressOf((of) => ['raw', of(cleaned)]),
    () => {
      if (!map.data.some((v) => v !== v)) return map;
      const out = newPlane(map.width, map.height, inputs.run.shared);
      for (let i = 0; i < out.data.length; i++) out.data[i] = map.data[i] === map.data[i] ? map.data[i]! : 0;
      return out;
    },
  );
}

/** Distances in metres in the framed output. */
export function distanceMap(request: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const raw = rawMap(request, inputs);
  const { low, high, turnOver, bend, near, far, spacing }: Calibration = calibrationOf(request.settings.calibration);
  const c = { low, high, turnOver, bend, near, far, spacing };
  return remember(
    inputs.cache,
    addressOf((of) => ['distance', of(raw), c]),
    () => calibrateMap(raw.value, c, inputs.run.shared),
  );
}

/** The framed plate with what layers stage laid over it, hidden by what is nearer where their layer says so. */
export function composedPlate(request: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const { width, height } = request.size;
  const plate = framedPlate(request, inputs);
  if (!request.settings.layers.some((l) => l.visible && layerOf(l.kind).paint)) return plate;
  const below = emptyStack(width, height, false);
  const placed = placeLayers(request, inputs, plate, below);
  const address = addressOf((of) => ['composed', of(plate), namesOf(placed, of)]);
  return remember(inputs.cache, address, () => {
    const out = newPicture(width, height, inputs.run.shared);
    out.data.set(plate.value.data);
    layAll(placed, below, inputs, ({ layer, definition, input }, { nearness }) => {
      const picture = definition.paint?.(input);
      if (!picture) return;
      const light = definition.shade?.(input);
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
