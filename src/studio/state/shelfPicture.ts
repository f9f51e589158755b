import type { Shot } from '../../core/document/schema';
import { renderSize } from '../../core/shot/chain';
import { engine } from '../../engine/pool/engine';
import type { Database } from '../../store/database';
import { requestOf } from './previewLoop';
import { useSession } from './sessionStore';

/** So long nothing newer must have come before the picture on the shelf is made anew. */
const REST_MS = 2500;

/** Keeps a shot's picture on the shelf as it looks now. */
export class ShelfPicture {
  private timer: ReturnType<typeof setTimeout> | null = null;

  constructor(
    private readonly db: Database,
    /** the shot as it is now, or null while it has no picture yet */
    private readonly shot: () => Shot | null,
  ) {}

  /** The picture follows once things rest. */
  soon(): void {
    this.cancel();
    this.timer = setTimeout(() => void this.save(), REST_MS);
  }

  cancel(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
  }

  /** Makes it now. What is needed of the page's state is taken before anything is waited for: another shot may be opened meanwhile. */
  async save(): Promise<void> {
    const shot = this.shot();
    const { given } = useSession.getState();
    if (!shot) return;
    try {
      const blob = await engine().thumbnail(requestOf(shot, renderSize(shot.settings.framing, { width: 640, height: 640 })), given);
      await this.db.thumbs.put({ shot: shot.id, blob });
    } catch {
      // the shelf then shows the picture it had
    }
  }
}
