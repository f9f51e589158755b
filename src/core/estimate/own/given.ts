import { OmbrageError } from '../../error';
import type { NetworkUse, ValueScale } from '../../need/networkUse';
import type { Picture, Plane, Size } from '../../picture';
import { planesOf } from '../network/layers';
import type { NetworkAnswer, NetworkRun } from './runs';

/** Mean and spread of the pictures of ImageNet, by colour (Deng et al. 2009). */
const MEAN = [0.485, 0.456, 0.406];
const SPREAD = [0.229, 0.224, 0.225];

/** What a value 0..1 of a colour becomes. */
const SCALES: Record<ValueScale, (v: number, colour: number) => number> = {
  imagenet: (v, colour) => (v - MEAN[colour]!) / SPREAD[colour]!,
  unit: (v) => v,
  signed: (v) => 2 * v - 1,
  bytes: (v) => 255 * v,
};

/** The size, px, at which a network is asked about pictures of a size. */
export function askedSize({ size }: Pick<NetworkUse, 'size'>, { width, height }: Size): Size {
  if ('width' in size) return size;
  const scale = size.side / Math.sqrt(width * height);
  const side = (px: number): number => size.multiple * Math.max(1, Math.round((px * scale) / size.multiple));
  return { width: side(width), height: side(height) };
}

/** A picture of linear light as a network is given it. */
export function givenPicture(picture: Picture, use: NetworkUse): NetworkRun {
  const { width, height } = picture;
  const planes = planesOf(picture).data;
  const n = width * height;
  const scale = SCALES[use.values];
  const pixels = use.layout === 'pixels';
  const data = new Float32Array(3 * n);
  for (let c = 0; c < 3; c++) for (let i = 0; i < n; i++) data[pixels ? 3 * i + c : c * n + i] = scale(planes[c * n + i]!, c);
  const leading = Array<number>(use.leading).fill(1);
  const { input, output, type } = use;
  return { input, output, type, data, dims: [...leading, ...(pixels ? [height, width, 3] : [3, height, width])] };
}

/** What a network answered, as a plane; nothing said yet of what its values mean. Throws OmbrageError where that cannot be depth. */
export function answeredPlane({ data, dims }: NetworkAnswer, name: string): Plane {
  const wrong = (what: string): OmbrageError =>
    new OmbrageError('wrong-answer', `${name} answers ${what}, which is no depth.`, 'Choose a network that gives one plane of depth.');
  const sides = dims.filter((d) => d !== 1);
  if (sides.length !== 2) throw wrong(sides.length === 3 ? `${Math.min(...sides)} planes` : `with sides ${dims.join(' x ') || 'of nothing'}`);
  const [height, width] = sides as [number, number];
  let [low, high] = [Infinity, -Infinity];
  for (const v of data) {
    if (!Number.isFinite(v)) throw wrong('with what is no number');
    low = Math.min(low, v);
    high = Math.max(high, v);
  }
  if (!(high - low > 1e-9 * Math.max(1, Math.abs(high)))) throw wrong(`${low.toPrecision(3)} everywhere`);
  return { width, height, data };
}
