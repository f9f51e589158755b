/** The simulated camera: size, field of view, and the distances that white and black of its alpha stand for. */
export const VIEW = { width: 640, height: 360, hfovDegrees: 60, near: 1.2, far: 60 } as const;

/** Half of what is seen at 1 m, m. */
export const HALF_WIDTH = Math.tan((VIEW.hfovDegrees * Math.PI) / 360);

/** From metres at 1 m to px. */
export const PX = VIEW.width / 2 / HALF_WIDTH;

/** Nearness of a distance along the view, 0..1: even in inverse distance; 0 beyond the far end. */
export const nearnessAt = (z: number): number => Math.min(1, Math.max(0, (1 / z - 1 / VIEW.far) / (1 / VIEW.near - 1 / VIEW.far)));

/** The distance of a nearness, m; endless for 0. */
export const distanceAt = (nearness: number): number => (nearness <= 0 ? Infinity : 1 / (1 / VIEW.far + nearness * (1 / VIEW.near - 1 / VIEW.far)));
