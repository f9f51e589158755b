import { moveValues, runEnds, runOf, startShare, type MoveDefinition } from '../../../core/camera/definition';
import { moveOf } from '../../../core/camera/registry';
import { hfovOf } from '../../../core/document/framing';
import type { MoveItem, Shot } from '../../../core/document/schema';
import { judgedFrames, poseAt } from '../../../core/path/path';
import { lensOf } from '../../state/shotLens';

export const WIDTH = 264;
export const HEIGHT = 128;
/** The camera's place in the drawing. */
export const FOOT = HEIGHT - 22;
/** Where the camera stands in a drawing from the side, px from the left. */
export const SIDE_FOOT = 40;
/** The longest way of a move takes so many px. */
const WAY = 46;

/** m, in the camera's own axes where the plate was taken. */
export interface Place {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** A path as it is before it is dragged. */
export interface Way {
  readonly start: Place;
  readonly end: Place;
  readonly values: ReturnType<typeof moveValues>;
}

export type PathEndName = 'Start' | 'End';

/** The path of a move as it is drawn. */
export interface PathDrawing extends Way {
  readonly definition: MoveDefinition;
  /** seen from the side, not from above */
  readonly side: boolean;
  /** px for a metre that make the way WAY px long */
  readonly scale: number;
  readonly places: readonly Place[];
  /** where the camera is at a frame */
  readonly at: (frame: number) => Place;
  /** half of what the lens sees, as a share of the distance */
  readonly cone: number;
  /** as the way grows by a length, its ends go so many lengths; 0: it stands where the plate was taken */
  readonly shares: Readonly<Record<PathEndName, number>>;
  readonly runs: boolean;
}

/** What is drawn of a move. */
export function pathDrawing(shot: Shot, item: MoveItem): PathDrawing {
  const definition = moveOf(item.kind);
  const { time, camera, framing } = shot.settings;
  const lens = lensOf(shot);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const alone = { time, camera: { ...camera, moves: [{ ...item, on: true }] } };
  const at = (frame: number): Place => poseAt(alone, hfov, { frame, fps: time.fps });
  const side = definition.path?.from === 'side';
  const places = judgedFrames(time.length).map(at);
  const run = runOf(definition, item.values);
  const ends = run && runEnds(run, time.length);
  const longest = Math.max(1e-4, ...places.map((p) => Math.hypot(side ? p.y : p.x, p.z)));
  const begins = run ? startShare(run) : 0;
  return {
    definition,
    side,
    scale: WAY / longest,
    places,
    at,
    start: at(0),
    // what comes back ends where it turns
    end: at(run?.returns && ends ? (ends.from + ends.to) / 2 : time.length - 1),
    values: moveValues(definition, item.values),
    cone: Math.tan(((side ? (hfov * framing.height) / framing.width : hfov) * Math.PI) / 360),
    shares: { Start: begins, End: 1 + begins },
    runs: run !== null,
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
