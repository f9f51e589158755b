import type { Project } from '../core/document/schema';
import type { Database } from './database';
import { saveProject } from './projects';

export type SaveState = { kind: 'saved'; at: number } | { kind: 'saving' } | { kind: 'failed'; error: unknown };

/** Saves a project within a second of its last change; one save at a time, always the newest document. */
export class Autosave {
  private waiting: Project | null = null;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private running: Promise<void> | null = null;
  private stopped = false;

  constructor(
    private readonly db: Database,
    private revision: number,
    private readonly onState: (state: SaveState) => void,
    private readonly delay = 400,
  ) {}

  changed(project: Project): void {
    if (this.stopped) return;
    this.waiting = project;
    this.onState({ kind: 'saving' });
    this.timer ??= setTimeout(() => void this.flush(), this.delay);
  }

  /** Writes what is waiting now. */
  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    await this.running;
    if (!this.waiting || this.stopped) return;
    const project = this.waiting;
    this.waiting = null;
    this.running = saveProject(this.db, project, this.revision)
      .then((revision) => {
        this.revision = revision;
        if (!this.waiting) this.onState({ kind: 'saved', at: Date.now() });
      })
      .catch((error: unknown) => {
        // what could not be written is kept, and tried again with the next change
        this.waiting ??= project;
        this.onState({ kind: 'failed', error });
      })
      .finally(() => {
        this.running = null;
      });
    await this.running;
  }

  /** No more saves, for example because another tab holds a newer document. */
  stop(): void {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
  }
}
