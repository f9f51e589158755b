import { fitted, shortened } from '../../core/path/fit';
import { judgePath, type Path } from '../../core/path/judged';
import type { PlateLens } from '../../core/camera/pose';
import type { Relief } from '../../core/camera/relief';
import type { MoveItem } from '../../core/document/schema';

export { judgePath, shortened as shortenMoves };

/** Moves made as large as the picture allows, each alone. */
export const fitMoves = (items: readonly MoveItem[], path: Path, lens: PlateLens, relief: Relief): readonly MoveItem[] =>
  items.map((item) => fitted(item, path, lens, relief));
