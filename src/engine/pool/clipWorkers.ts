import * as Comlink from 'comlink';
import type { Span } from '../../core/motion/plan';
import type { Point } from '../../core/motion/track';
import type { Size } from '../../core/picture';
import type { ShotRequest } from '../../core/shot/stage';
import type { FollowedPoint, RegionSpec } from '../messages/clipJobs';
import type { Given } from '../messages/protocol';
import { Workers, type Job } from './workers';

/** Work that goes through the frames of a clip, on workers that do nothing else meanwhile. */
export class ClipWorkers extends Workers {
  /** Carries a region of a clip to all its frames; what was lost of it, by frame. */
  followRegion(spec: RegionSpec, report: (share: number) => void): Job<readonly number[]> {
    return this.job((worker, id, words) => worker.followRegion(spec, id, words, Comlink.proxy(report)) as Promise<readonly number[]>);
  }

  /** Makes a copy of a clip of half its size, to work with; it is kept in this browser. */
  makeProxy(sha256: string, report: (share: number) => void): Job<Size> {
    return this.job((worker, id, words) => worker.makeProxy(sha256, id, words, Comlink.proxy(report)) as Promise<Size>);
  }

  /** Follows a point of a clip, shares of the plate, and reads how far it is at each frame. */
  followPoint(shot: ShotRequest, given: Given, start: Point, span: Span, report: (share: number) => void): Job<readonly FollowedPoint[]> {
    return this.job(
      (worker, id, words) => worker.followPoint(shot, given, start, span, id, words, Comlink.proxy(report)) as Promise<readonly FollowedPoint[]>,
    );
  }
}
