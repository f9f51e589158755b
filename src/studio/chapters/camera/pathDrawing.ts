import { startShare } from '../../../core/camera/definition';
import type { MoveItem, Shot } from '../../../core/document/schema';
import { judgedFrames } from '../../../core/path/path';
import { moveWay, type MoveWay, type Place, type Way } from './moveWay';

export const WIDTH = 264;
export const HEIGHT = 128;
/** The camera's place in the drawing. */
export const FOOT = HEIGHT - 22;
/** Where the camera stands in a drawing from the side, px from the left. */
export const SIDE_FOOT = 40;
/** The longest way of a move takes so many px. */
const WAY = 46;

export type PathEndName = 'Start' | 'End';

/** The path of a move as it is drawn. */
export interface PathDrawing extends MoveWay {
  /** seen from the side, not from above */
  readonly side: boolean;
  /** px for a metre that make the way WAY px long */
  readonly scale: number;
  readonly places: readonly Place[];
  /** half of what the lens sees, as a share of the distance */
  readonly cone: number;
  /** as the way grows by a length, its ends go so many lengths; 0: it stands where the plate was taken */
  readonly shares: Readonly<Record<PathEndName, number>>;
}

/** What is drawn of a move. */
export function pathDrawing(shot: Shot, item: MoveItem): PathDrawing {
  const way = moveWay(shot, item);
  const { framing, time } = shot.settings;
  const { definition, run, hfov } = way;
  const side = definition.path?.from === 'side';
  const places = judgedFrames(time.length).map(way.at);
  const longest = Math.max(1e-4, ...places.map((p) => Math.hypot(side ? p.y : p.x, p.z)));
  const begins = run ? startShare(run) : 0;
  return {
    ...way,
    side,
    scale: WAY / longest,
    places,
    cone: Math.tan(((side ? (hfov * framing.height) / framing.width : hfov) * Math.PI) / 360),
    shares: { Start: begins, End: 1 + begins },
  };
}

/** Where a place lies in the drawing, px, at so many px for a metre. */
export const placeInDrawing = (side: boolean, scale: number, p: Place): readonly [number, number] =>
  side ? [SIDE_FOOT + p.z * scale, HEIGHT / 2 + p.y * scale] : [WIDTH / 2 + p.x * scale, FOOT - p.z * scale];

/** Where the whole way leads, from its start, when one of its ends is moved by so many m in the drawing, right and down. */
export function dragged({ start, end }: Way, side: boolean, share: number, right: number, down: number): Place {
  const way = { x: end.x - start.x, y: end.y - start.y, z: end.z - start.z };
  return side ? { x: 0, y: way.y + down / share, z: way.z + right / share } : { x: way.x + right / share, y: 0, z: way.z - down / share };
}
