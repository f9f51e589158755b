import { firmDistances } from '../camera/firmEdges';
import { survey, type Relief } from '../camera/relief';
import { layerOf } from '../depth/layers/registry';
import type { Settings } from '../document/schema';
import type { Picture, Plane } from '../picture';
import { distanceMap } from './depthChain';
import { settingsAt } from './settingsAt';
import { stepOf } from './stepOf';
import { type ChainInputs, type ShotRequest, type Stage } from './stage';

/** A shot is surveyed at this size, whatever size it is rendered at, so that every rendering judges alike. */
const SURVEY_PX = 480;

/** A shot's settings without the layers that put pictures into it: what lies behind those. */
export function withoutPaint(settings: Settings): Settings | null {
  const layers = settings.layers.filter((l) => !(l.visible && layerOf(l.kind).paint));
  return layers.length === settings.layers.length ? null : { ...settings, layers };
}

/** Distances whose soft edges are made firm, where that is wanted, and moved to those of the picture, where there is one. */
export function firmed(distance: Stage<Plane>, picture: Stage<Picture> | null, on: boolean, { cache }: Pick<ChainInputs, 'cache'>): Stage<Plane> {
  if (!on) return distance;
  return stepOf(cache, 'firm', { distance, picture }, (read) => firmDistances(read.distance, read.picture));
}

/** What of a shot's depth decides how far its camera may move: as it is at its first frame. */
export function surveyed(request: ShotRequest, inputs: ChainInputs): Stage<Relief> {
  const at = { frame: 0, fps: request.at.fps };
  const settings = settingsAt(request.set ?? request.settings, at);
  const { width, height } = settings.framing;
  const shrink = Math.min(1, SURVEY_PX / Math.max(width, height));
  const size = { width: Math.max(1, Math.round(width * shrink)), height: Math.max(1, Math.round(height * shrink)) };
  const small = { ...request, settings, at, size };
  const { firm } = settings.camera;
  const distance = firmed(distanceMap(small, inputs), null, firm, inputs);
  // nothing tears behind what stands there by itself
  const bare = withoutPaint(settings);
  const behind = bare && firmed(distanceMap({ ...small, settings: bare }, inputs), null, firm, inputs);
  return stepOf(inputs.cache, 'relief', { distance, behind }, (read) => {
    const whole = survey(read.distance);
    return read.behind ? { ...whole, edges: survey(read.behind).edges } : whole;
  });
}
