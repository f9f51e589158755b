import { steadiedTo } from '../../core/estimate/steadied';
import { stillNeed, type EstimateNeed } from '../../core/need/need';
import type { Plane, Raster } from '../../core/picture';
import { engine, type Job } from '../../engine/pool/engine';
import { notifyError } from '../notices/noticeStore';

/** So long after an estimate failed none is begun, ms. */
const REST_MS = 5000;

/** Depth of live pictures that bring none: the newest is estimated as soon as the last one is done, and brought to the levels of those before it. */
export class LiveEstimates {
  private job: Job<Plane> | null = null;
  private last: Plane | null = null;
  private count = 0;
  private until = 0;
  private closed = false;
  /** the key under which workers hold the newest; null before the first */
  newest: string | null = null;

  constructor(private readonly name: string) {}

  /** A picture of which depth is wanted. */
  want(raster: Raster, need: EstimateNeed): void {
    if (this.job || this.closed || performance.now() < this.until) return;
    const key = `${this.name}-estimated-${this.count++}`;
    // a copy: the picture itself is written again
    const copy = { ...raster, data: raster.data.slice() };
    void engine().hold('raster', key, copy).catch(notifyError);
    const plate = stillNeed({ ...need.of, sha256: key }, true);
    this.job = engine().estimate(plate, { quality: need.quality }, () => undefined);
    this.job.done
      .then((plane) => {
        if (plane && !this.closed) this.take(key, steadiedTo(this.last, plane));
      })
      .catch((error: unknown) => {
        this.until = performance.now() + REST_MS;
        if (!this.closed) notifyError(error);
      })
      .finally(() => {
        this.job = null;
        engine().letGo('raster', key);
      });
  }

  close(): void {
    this.closed = true;
    this.job?.cancel();
    if (this.newest) engine().letGo('map', this.newest);
  }

  private take(key: string, plane: Plane): void {
    const before = this.newest;
    this.last = plane;
    this.newest = key;
    void engine().hold('map', key, plane).catch(notifyError);
    if (before) engine().letGo('map', before);
  }
}
