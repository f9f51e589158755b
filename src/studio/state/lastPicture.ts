import type { Database } from '../../store/database';
import { takeFirstPicture } from './firstPicture';
import { useSession } from './sessionStore';

/** The shot's picture as it was left, while nothing better is there. */
export async function showLast(db: Database, closed: () => boolean, shotId: string): Promise<void> {
  try {
    const fromShelf = async () => (await db.thumbs.get(shotId))?.blob;
    const lastPicture = takeFirstPicture(shotId) ?? (await fromShelf().then((blob) => blob && createImageBitmap(blob)));
    if (!lastPicture) return;
    if (closed() || useSession.getState().preview) lastPicture.close();
    else useSession.getState().set({ lastPicture });
  } catch {
    // the view then stays empty until the first picture
  }
}
