import type { SceneShape } from '../core/mesh/scene';
import type { Database } from './database';

/** Keeps the shape that a shot's mesh was made of, in place of the one before. */
export const keepShape = async (
  db: Database,
  shot: string,
  size: { readonly width: number; readonly height: number },
  shape: SceneShape,
): Promise<void> => {
  await db.shapes.put({ shot, width: size.width, height: size.height, shape });
};

/** Which of some shots have a shape of a size: those can lend it to another shot of that framing. */
export async function shotsWithShape(
  db: Database,
  shots: readonly string[],
  size: { readonly width: number; readonly height: number },
): Promise<readonly string[]> {
  const rows = await db.shapes.bulkGet([...shots]);
  return rows.flatMap((row) => (row && row.width === size.width && row.height === size.height ? [row.shot] : []));
}

/** The shape of a shot; null where there is none any more. */
export const shapeOfShot = async (db: Database, shot: string): Promise<SceneShape | null> => (await db.shapes.get(shot))?.shape ?? null;
