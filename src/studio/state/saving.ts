import { liveQuery } from 'dexie';
import { newId } from '../../core/document/defaults';
import type { Project } from '../../core/document/schema';
import { OmbrageError } from '../../core/error';
import { Autosave } from '../../store/autosave';
import type { Database } from '../../store/database';
import { addProject, bringBack, CHANGED_ELSEWHERE, DELETED_ELSEWHERE } from '../../store/projects';
import { useDocument } from './documentStore';
import { useSession } from './sessionStore';
import { dismiss, notify, notifyError } from '../notices/noticeStore';

/** Where the page goes on with a copy. */
const goTo = (project: string, shot: string | null): void => window.location.assign(`/shot?project=${project}&shot=${shot ?? ''}`);

/** Saves the open project. What stands in the way is said and stays in sight until it is decided; nothing that was done is lost. */
export class Saving {
  private readonly autosave: Autosave;
  private readonly stops: (() => void)[] = [];
  /** the message that waits for a decision */
  private question: number | null = null;
  private failing: number | null = null;
  private decided = false;

  constructor(
    private readonly db: Database,
    private readonly project: Project,
    revision: number,
  ) {
    this.autosave = new Autosave(db, revision, (save) => {
      useSession.getState().set({ save });
      if (save.is === 'failed') this.onFailed(save.error);
      else if (save.is === 'saved' && this.failing !== null) {
        dismiss(this.failing);
        this.failing = null;
        notify({ kind: 'note', text: 'Everything is saved again.' });
      }
    });
    useSession.getState().set({ save: { is: 'saved', at: Date.now() } });
    const watched = liveQuery(() => db.projects.get(project.id)).subscribe({
      next: (row) => {
        if (!row || row.deletedAt !== null) this.autosave.block(DELETED_ELSEWHERE);
      },
      error: () => undefined,
    });
    const flush = (): void => void this.autosave.flush();
    const warn = (event: BeforeUnloadEvent): void => {
      if (!this.autosave.unsaved || this.decided) return;
      event.preventDefault();
      flush();
    };
    window.addEventListener('pagehide', flush);
    window.addEventListener('beforeunload', warn);
    this.stops.push(
      () => watched.unsubscribe(),
      () => window.removeEventListener('pagehide', flush),
      () => window.removeEventListener('beforeunload', warn),
    );
  }

  changed(project: Project): void {
    this.autosave.changed(project);
  }

  flush(): Promise<void> {
    return this.autosave.flush();
  }

  /** Writes what is waiting; what may not be written because of another tab becomes a project of its own. */
  async close(): Promise<void> {
    for (const stop of this.stops) stop();
    if (this.question !== null) dismiss(this.question);
    await this.autosave.flush();
    const left = this.autosave.takeUnsaved();
    if (!left || this.decided) return;
    const copy = await addProject(this.db, { ...left, id: newId(), name: `${left.name}, copy` });
    notify({ kind: 'note', text: `What was not saved is kept as “${copy.name}”.`, hint: 'You find it among all shots.' });
  }

  private onFailed(error: unknown): void {
    const code = error instanceof OmbrageError ? error.code : '';
    if (code === CHANGED_ELSEWHERE || code === DELETED_ELSEWHERE) {
      this.ask(error as OmbrageError);
      return;
    }
    // it is tried again by itself; once is enough to say so
    this.failing ??= notifyError(error);
  }

  private ask(error: OmbrageError): void {
    if (this.question !== null) return;
    const other =
      error.code === DELETED_ELSEWHERE
        ? { label: 'Take it back', run: () => this.decide(() => this.takeBack()) }
        : { label: 'Load the other', run: () => this.decide(() => Promise.resolve(window.location.reload())) };
    const copy = { label: 'Keep as a copy', run: () => this.decide(() => this.keepCopy()) };
    this.question = notify({ kind: 'error', text: error.message, hint: error.hint, stays: true, actions: [other, copy] });
  }

  private decide(act: () => Promise<void>): void {
    this.decided = true;
    act().catch((error: unknown) => {
      this.decided = false;
      this.question = null;
      notifyError(error);
      this.autosave.repeat();
    });
  }

  /** The project is brought back as it is here, and goes on being saved. */
  private async takeBack(): Promise<void> {
    const project = useDocument.getState().project ?? this.project;
    const revision = await bringBack(this.db, project);
    if (this.question !== null) dismiss(this.question);
    this.question = null;
    this.decided = false;
    this.autosave.resume(revision, project);
  }

  private async keepCopy(): Promise<void> {
    const { project, shotId } = useDocument.getState();
    if (!project) return;
    const copy = await addProject(this.db, { ...project, id: newId(), name: `${project.name}, copy` });
    goTo(copy.id, shotId);
  }
}
