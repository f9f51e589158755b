import type { CameraSettings, Settings } from '../document/schema';
import { paramsAt, type Moment } from '../values/moment';
import { knowsMove, moveOf } from '../camera/registry';
import { addPoses, AT_PLATE, poseOf, shiftFor, type CameraPose } from '../camera/pose';

/** Which eye sees: the left one, none in particular, the right one. */
export type Eye = -1 | 0 | 1;

/** Poses of at most so many frames are looked at to judge a whole path. */
const MOST_JUDGED = 600;

/** Whether the camera of a shot ever stands elsewhere than where the plate was taken. */
export const hasCamera = ({ camera }: Pick<Settings, 'camera'>): boolean => camera.stereo.on || camera.moves.some((m) => m.on && knowsMove(m.kind));

/** Where the camera stands at a moment: all moves that are on, added up. */
export function poseAt({ camera, time }: Pick<Settings, 'camera' | 'time'>, hfovDegrees: number, at: Moment): CameraPose {
  let pose = AT_PLATE;
  for (const item of camera.moves) {
    if (!item.on) continue;
    const definition = moveOf(item.kind);
    pose = addPoses(pose, definition.pose({ params: paramsAt(definition, item, at), at, length: time.length, hfovDegrees }));
  }
  return pose;
}

/** The pose of one eye: half the distance between the eyes aside, its picture shifted so that what lies in the screen is where it was. Never turned: no keystone. */
export function ofEye(pose: CameraPose, { stereo }: CameraSettings, eye: Eye): CameraPose {
  if (eye === 0) return pose;
  const aside = (eye * stereo.eyes) / 2000;
  const shift = stereo.screen === 'infinite' ? {} : shiftFor(aside, 0, stereo.screen);
  // aside as the camera is turned
  const [c, s] = [Math.cos(pose.yaw), Math.sin(pose.yaw)];
  const [cr, sr, sp] = [Math.cos(pose.roll), Math.sin(pose.roll), Math.sin(pose.pitch)];
  const right = { x: aside * (c * cr + s * sp * sr), y: aside * Math.cos(pose.pitch) * sr, z: aside * (-s * cr + c * sp * sr) };
  return addPoses(pose, poseOf({ ...right, ...shift }));
}

/** The frames by which a path is judged: all of them, or evenly chosen ones and the last. */
export function judgedFrames(length: number): readonly number[] {
  const step = Math.max(1, Math.ceil(length / MOST_JUDGED));
  const out: number[] = [];
  for (let f = 0; f < length; f += step) out.push(f);
  if (out[out.length - 1] !== length - 1) out.push(length - 1);
  return out;
}

/** Every pose of a shot's path, with both eyes where there are two. */
export function posesOf(settings: Pick<Settings, 'camera' | 'time'>, hfovDegrees: number): readonly CameraPose[] {
  const { camera, time } = settings;
  const moving = camera.moves.some((m) => m.on);
  return (moving ? judgedFrames(time.length) : [0]).flatMap((frame) => {
    const pose = poseAt(settings, hfovDegrees, { frame, fps: time.fps });
    return camera.stereo.on ? [ofEye(pose, camera, -1), ofEye(pose, camera, 1)] : [pose];
  });
}

/** Whether the first frame follows the last one as any other follows the one before it; null where nothing moves. */
export function loops({ camera, time }: Pick<Settings, 'camera' | 'time'>): boolean | null {
  const on = camera.moves.filter((m) => m.on && knowsMove(m.kind));
  if (on.length === 0) return null;
  return on.every((item) => {
    if (Object.keys(item.drives).length > 0) return false;
    const definition = moveOf(item.kind);
    const params = paramsAt(definition, item, { frame: 0, fps: time.fps });
    const period = definition.period?.(params) ?? null;
    if (period === null) return 'returns' in params && params.returns === true && Number(params.over) === 0 && Number(params.from) === 0;
    return Math.abs(time.length / period - Math.round(time.length / period)) < 1e-9 && time.length >= period;
  });
}
