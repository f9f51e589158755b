import { fitPose, type PinnedMarks } from './fit';
import type { HeadPose, PlatePlace } from './marks';
import type { HeadShape } from './parts';

/** Points that a face model finds, in the order of the 68-point mark-up (Sagonas, Tzimiropoulos, Zafeiriou & Pantic 2013). */
const FACE_POINTS = 68;
const EYE_LEFT = [36, 37, 38, 39, 40, 41];
const EYE_RIGHT = [42, 43, 44, 45, 46, 47];
const [NOSE, MOUTH_LEFT, MOUTH_RIGHT, CHIN] = [30, 48, 54, 8];

/**
 * The head's marks that a found face tells: eyes (middle of their rims), tip of the nose, corners of the mouth, chin. Crown and temples
 * are not among its points. Left and right as in the picture; places in shares of the plate. Throws a RangeError for another number of points.
 */
export function marksOfFace(points: readonly PlatePlace[]): PinnedMarks {
  if (points.length !== FACE_POINTS) throw new RangeError(`A face has ${FACE_POINTS} points, not ${points.length}.`);
  const middle = (of: readonly number[]): PlatePlace => ({
    x: of.reduce((s, i) => s + points[i]!.x, 0) / of.length,
    y: of.reduce((s, i) => s + points[i]!.y, 0) / of.length,
  });
  return {
    eyeLeft: middle(EYE_LEFT),
    eyeRight: middle(EYE_RIGHT),
    nose: middle([NOSE]),
    mouthLeft: middle([MOUTH_LEFT]),
    mouthRight: middle([MOUTH_RIGHT]),
    chin: middle([CHIN]),
  };
}

/** Eyes lie this share of the head's height apart, and its middle this much below them. */
const EYES_APART = 0.28;
const MIDDLE_BELOW = 0.02;

/** The pose of a head whose face was found, whatever it was before: from the eyes first, then by all marks. `aspect` is width/height of the plate. */
export function poseOfFace(marks: PinnedMarks, shape: HeadShape, aspect: number): HeadPose {
  const [left, right] = [marks.eyeLeft!, marks.eyeRight!];
  const [dx, dy] = [(right.x - left.x) * aspect, right.y - left.y];
  const height = Math.max(0.01, Math.hypot(dx, dy) / EYES_APART);
  const start = {
    yaw: 0,
    pitch: 0,
    roll: (Math.atan2(dy, dx) * 180) / Math.PI,
    x: (left.x + right.x) / 2,
    y: (left.y + right.y) / 2 + MIDDLE_BELOW * height,
    height,
  };
  return fitPose(marks, start, shape, aspect);
}
