import type { Shot } from '../../core/document/schema';
import { needKey, stillNeed, addressOfFile } from '../../core/need/need';
import { handIn, needsOf } from '../../core/shot/needs';
import type { HeldKind } from '../../engine/messages/holdings';
import { engine, type Job } from '../../engine/pool/engine';
import type { Plane } from '../../core/picture';
import type { Loading, Work } from '../../engine/pool/loaders/definition';
import { load } from '../../engine/pool/loaders/registry';
import { database } from '../../store/database';
import { getMedia } from '../../store/media';
import { notifyError } from '../notices/noticeStore';
import { holdPlate } from '../state/clipDepth';
import { heldFor, sourcesOf } from '../state/provider';
import { progressOf, useSession } from '../state/sessionStore';

/** A shot that is shown though another one is open: what it needs is brought to the workers, and stays there until it is closed. */
export class OtherShot {
  /** what there is of what its layers need, by the keys of their needs */
  given: Readonly<Record<string, string>> = {};
  /** its plate and all that it needs are there */
  ready = false;
  private readonly jobs = new Set<Job<Plane>>();
  private closed = false;

  constructor(
    private readonly name: string,
    private readonly shot: Shot,
    /** it is ready */
    private readonly onReady: () => void,
  ) {
    this.bring().catch((error: unknown) => {
      if (!this.closed) notifyError(error);
    });
  }

  close(): void {
    this.closed = true;
    for (const job of this.jobs) job.cancel();
    engine().need([], this.who);
  }

  private get who(): string {
    return `also ${this.name}`;
  }

  private async bring(): Promise<void> {
    const { shot } = this;
    const [db, { plate }] = [database(), shot];
    // what is not seen of it is not brought
    const needs = needsOf({ plate, settings: handIn(shot.settings) }).filter((need) => needKey(need) !== needKey(stillNeed(plate)));
    engine().need([['raster', addressOfFile(plate)], ...needs.map((need): [HeldKind, string] => heldFor(need))], this.who);
    const held = engine().holds('raster', addressOfFile(plate));
    const decoded = held ? null : await engine().decode(await getMedia(db, plate), plate.name, false);
    if (this.closed) return;
    await holdPlate(db, plate, decoded?.raster ?? null);
    const sources = sourcesOf(db);
    for (const need of needs) {
      const key = needKey(need);
      if (this.closed) return;
      if (engine().holds(...heldFor(need))) {
        this.give(key, key);
        continue;
      }
      await load(need, {
        engine: engine(),
        sources,
        wanted: () => !this.closed,
        hold: (kind, under, value) => void engine().hold(kind, under, value).catch(notifyError),
        given: (under) => this.give(key, under),
        without: () => undefined,
        watch: (work, begin) => this.watch(work, begin),
      } satisfies Loading);
    }
    if (this.closed) return;
    this.ready = true;
    this.onReady();
  }

  private give(key: string, under: string): void {
    this.given = { ...this.given, [key]: under };
  }

  /** Shows what takes its time, with a way to stop it. */
  private async watch({ doing }: Work, begin: (report: (share: number) => void) => Job<Plane>): Promise<Plane | null> {
    const cancel = (): void => job.cancel();
    const progress = progressOf(`${this.shot.name}: ${doing}`, cancel, (estimating) => useSession.getState().set({ estimating }));
    const job = begin(progress.report);
    this.jobs.add(job);
    try {
      return await job.done;
    } finally {
      this.jobs.delete(job);
      progress.end();
    }
  }
}
