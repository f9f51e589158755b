import { finishedPicture, resolved } from '../../core/shot/chain';
import { composedPlate, depthOf } from '../../core/shot/depthChain';
import { plainCache, type ChainInputs, type ShotRequest } from '../../core/shot/stage';
import type { Run } from '../../core/run';
import { calibrationOf } from '../../core/document/defaults';
import type { Plane, Raster, Size } from '../../core/picture';
import { depthBitmap, pictureBitmap } from './paint';

/** A still with something of everything in it: a slope, steps, a few lights. */
function standInPlate({ width, height }: Size): Raster {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const light = i % 911 === 0 ? 255 : (x >> 4) % 2 ? 60 + ((x + y) & 63) : 180;
      data[4 * i] = light;
      data[4 * i + 1] = light >> 1;
      data[4 * i + 2] = 200 - (light >> 1);
      data[4 * i + 3] = 255;
    }
  return { width, height, channels: 4, data };
}

function standInMap(): Plane {
  const [width, height] = [64, 36];
  return {
    width,
    height,
    data: Float32Array.from({ length: width * height }, (_, i) => (((i % width) >> 3) % 2 ? 0.8 : Math.floor(i / width) / height)),
  };
}

/**
 * Renders a stand-in for a plate that is still being decoded, with the shot's own settings, and throws the result away: code that has run
 * once is compiled when the plate comes. Throws Aborted where the run is.
 */
export async function rehearse(asked: ShotRequest, run: Run): Promise<void> {
  const request = resolved(asked);
  const { width, height } = request.size;
  const raster = standInPlate({ width: 2 * width, height: 2 * height });
  const map = standInMap();
  const practice: ChainInputs = {
    held: { raster: (need) => (need.ref.sha256 === request.plate.sha256 ? raster : null), plane: () => ({ key: 'stand-in', plane: map }) },
    cache: plainCache(),
    run,
  };
  const bitmaps = await Promise.all([
    pictureBitmap(composedPlate(request, practice).value),
    depthBitmap(depthOf(request, practice).raw.value, calibrationOf(request.settings.calibration), 'distance'),
    pictureBitmap((await finishedPicture(request, practice)).value),
  ]);
  for (const bitmap of bitmaps) bitmap.close();
}
