import type { Shot } from '../../core/document/schema';
import { engine } from '../../engine/pool/engine';
import type { LiveFrame } from '../../live/definition';
import { notifyError } from '../notices/noticeStore';
import { useLive } from '../state/liveStore';
import { givenOf, sizeOf } from './givenOf';
import type { LiveEstimates } from './liveEstimates';

/** So many are held: one that was asked for may still be being made. */
const HELD = 3;

/** What the rail, the probe and clicks see of pictures that arrive: a copy now and then, since it is read for a while. */
export class Glances {
  private readonly keys: string[] = [];

  constructor(private readonly estimates: LiveEstimates) {}

  /** Tells what is seen now, once of each picture. */
  take(name: string, { raster, nearness }: LiveFrame, shot: Shot): void {
    const key = `${name}-glance`;
    if (this.keys.includes(key)) return;
    const copy = { raster: { ...raster, data: raster.data.slice() }, nearness: nearness && { ...nearness, data: nearness.data.slice() } };
    void engine().hold('raster', key, copy.raster).catch(notifyError);
    if (copy.nearness) void engine().hold('map', key, copy.nearness).catch(notifyError);
    this.keys.push(key);
    useLive.getState().set({ glance: { key, ...sizeOf(raster), given: givenOf(key, copy, shot, this.estimates) } });
    if (this.keys.length > HELD) this.letGo(this.keys.shift()!);
  }

  close(): void {
    for (const key of this.keys) this.letGo(key);
  }

  private letGo(key: string): void {
    engine().letGo('raster', key);
    engine().letGo('map', key);
  }
}
