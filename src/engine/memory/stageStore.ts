import { Bounded } from '../../core/bounded';
import type { Kept, StageCache } from '../../core/shot/stage';

/** Finished stages of the chain, up to so many bytes: those that were used last, and while work is done those that it uses. */
export class StageStore extends Bounded<Kept> implements StageCache {
  constructor(limit: number) {
    super({ limit, cost: (value) => value.data.byteLength });
  }

  override get<T extends Kept>(key: string): T | undefined {
    return super.get(key) as T | undefined;
  }
}
