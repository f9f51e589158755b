import { calibrateMap, type Calibration } from '../depth/calibrate';
import { calibrationOf } from '../document/defaults';
import { effectGroups, type RenderLens } from '../effects/definition';
import { effectOf, knowsEffect } from '../effects/registry';
import { OmbrageError } from '../error';
import { focalLengthOfHfov } from '../optics';
import type { Picture, Plane, Size } from '../raster/picture';
import { valuesAt } from '../values/drive';
import { valuesSchema } from '../values/params';
import { composedPlate, rawMap } from './depthChain';
import { outputFocalPx } from './framing';
import { addressOf } from './key';
import { remember, Stopped, type ChainInputs, type ShotRequest, type Stage } from './stage';

/** Distances in metres in the framed output. */
export function distanceMap(r: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const raw = rawMap(r, inputs);
  const { low, high, turnOver, bend, near, far, spacing }: Calibration = calibrationOf(r.settings.calibration);
  const c = { low, high, turnOver, bend, near, far, spacing };
  return remember(
    inputs.cache,
    addressOf((of) => ['distance', of(raw), c]),
    () => calibrateMap(raw.value, c, inputs.shared),
  );
}

/** The lens of the plate at the size rendered. */
export function renderLens(r: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): RenderLens {
  const { framing, hfovDegrees } = r.settings;
  return {
    focalPx: (outputFocalPx(r.plate, framing, hfovDegrees) * r.size.width) / framing.width,
    focalLength: focalLengthOfHfov(hfovDegrees),
  };
}

/** The finished picture: plate, then every effect that is on, in the order in which light meets them. */
export async function finishedPicture(r: ShotRequest, inputs: ChainInputs): Promise<Stage<Picture>> {
  let current = composedPlate(r, inputs);
  const list = effectGroups.flatMap((group) => r.settings.effects.filter((e) => e.on && knowsEffect(e.kind) && effectOf(e.kind).group === group));
  if (list.length === 0) return current;
  const distance = distanceMap(r, inputs);
  const lens = renderLens(r);
  for (const [index, item] of list.entries()) {
    const definition = effectOf(item.kind);
    const params = valuesSchema(definition.params).parse(valuesAt(item.values, item.drives, r.frame));
    const from = current;
    // lengths in px of the rendering are part of its size; a still is made once unless something in it reads the time
    const time = definition.readsTime?.(params) ? r.frame : null;
    const sized = { look: r.settings.hfovDegrees, key: lens };
    const address = addressOf((of) => ['effect', of(from), of(distance), item.kind, params, of(sized), time]);
    const found = inputs.cache.get(address.key) as Picture | undefined;
    if (found) {
      current = { ...address, value: found };
      continue;
    }
    const value = await definition.apply({
      picture: current.value,
      distance: distance.value,
      params,
      lens,
      pxScale: r.size.width / r.settings.framing.width,
      frame: r.frame,
      progress: (share) => inputs.progress?.((index + share) / list.length) !== false,
      spreadBlur: inputs.spreadBlur,
    });
    if (!value) throw new Stopped();
    inputs.cache.set(address.key, value);
    current = { ...address, value };
  }
  return current;
}

/** Size of a copy of the output that fits a box, never larger than the output. */
export function renderSize(framing: Size, box: Size): Size {
  const scale = Math.min(1, box.width / framing.width, box.height / framing.height);
  return { width: Math.max(1, Math.round(framing.width * scale)), height: Math.max(1, Math.round(framing.height * scale)) };
}

/** Refuses a rendering too large to hold in memory. */
export function checkRenderable(size: Size): void {
  if (size.width * size.height > 80e6)
    throw new OmbrageError(
      'output-too-large',
      `An output of ${size.width}x${size.height} px is too large to render.`,
      'Choose an output of at most 80 megapixels.',
    );
}
