import type { Settings } from './schema';

/** Settings of a camera that stands where the plate was taken, throughout; the same object where it does. */
export function standing<S extends Pick<Settings, 'camera'>>(settings: S): S {
  const { camera } = settings;
  if (camera.moves.length === 0 && !camera.stereo.on) return settings;
  return { ...settings, camera: { ...camera, moves: [], stereo: { ...camera.stereo, on: false } } };
}
