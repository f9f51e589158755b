import { OmbrageError } from '../core/error';
import type { Project } from '../core/document/schema';
import type { Database } from './database';
import { CHANGED_ELSEWHERE, DELETED_ELSEWHERE, deletedElsewhere, saveProject } from './projects';

export type SaveState = { is: 'saved'; at: number } | { is: 'saving' } | { is: 'failed'; error: unknown };

const isBlocking = (error: unknown): boolean => error instanceof OmbrageError && [CHANGED_ELSEWHERE, DELETED_ELSEWHERE].includes(error.code);

/** So long changes are gathered before they are written, ms: a page that is busy writes them later still. */
const SOON_MS = 40;

/**
 * Saves a project as soon as it has changed; one save at a time, always the newest document. What could not be written is tried
 * again by itself; where another tab stands in the way nothing is written until `resume`.
 */
export class Autosave {
  private waiting: Project | null = null;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private running: Promise<void> | null = null;
  private blocked = false;
  private failures = 0;

  constructor(
    private readonly db: Database,
    private revision: number,
    private readonly onState: (state: SaveState) => void,
    private readonly delay = SOON_MS,
    /** first and longest wait before a failed save is tried again */
    private readonly retry: readonly [number, number] = [2000, 30000],
  ) {}

  /** Whether something is not in the store yet. */
  get unsaved(): boolean {
    return this.waiting !== null || this.running !== null;
  }

  changed(project: Project): void {
    this.waiting = project;
    if (this.blocked) return;
    this.onState({ is: 'saving' });
    this.schedule(this.delay);
  }

  /** Writes what is waiting now. */
  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    await this.running;
    if (!this.waiting || this.blocked) return;
    const project = this.waiting;
    this.waiting = null;
    this.running = saveProject(this.db, project, this.revision)
      .then((revision) => {
        this.revision = revision;
        this.failures = 0;
        if (!this.waiting) this.onState({ is: 'saved', at: Date.now() });
      })
      .catch((error: unknown) => {
        this.waiting ??= project;
        if (isBlocking(error)) this.stand(error);
        else {
          this.onState({ is: 'failed', error });
          this.schedule(Math.min(this.retry[1], this.retry[0] * 2 ** this.failures++));
        }
      })
      .finally(() => {
        this.running = null;
      });
    await this.running;
  }

  /** Writes nothing more until somebody has decided. */
  block(code: typeof DELETED_ELSEWHERE): void {
    if (!this.blocked && code === DELETED_ELSEWHERE) this.stand(deletedElsewhere());
  }

  /** Goes on from a revision that was settled; `written` is what is in the store, and what was changed since then is saved. */
  resume(revision: number, written: Project): void {
    this.revision = revision;
    this.blocked = false;
    const left = this.waiting;
    this.waiting = null;
    if (left && left !== written) this.changed(left);
    else this.onState({ is: 'saved', at: Date.now() });
  }

  /** Says again what stands in the way. */
  repeat(): void {
    if (this.blocked && this.reason) this.onState({ is: 'failed', error: this.reason });
  }

  /** What could not be written, and is given up here. */
  takeUnsaved(): Project | null {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const left = this.waiting;
    this.waiting = null;
    this.blocked = true;
    return left;
  }

  private reason: unknown = null;

  private stand(error: unknown): void {
    this.blocked = true;
    this.reason = error;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.onState({ is: 'failed', error });
  }

  private schedule(delay: number): void {
    this.timer ??= setTimeout(() => void this.flush(), delay);
  }
}
