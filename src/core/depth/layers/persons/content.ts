import * as z from 'zod';
import { contentKey } from '../../../key';
import { ESTIMATE_VERSION } from '../../../need/estimateKey';

const share = z.number().min(0).max(1);

/** At most so many are clicked in one layer. */
export const MOST_PERSONS = 100;

export const personsSchema = z.object({
  /** places of the plate, shares, each on a person who belongs to it, and on which frame of a clip it was clicked */
  clicked: z
    .array(z.object({ x: share, y: share, frame: z.number().int().min(0).default(0) }))
    .max(MOST_PERSONS)
    .default([]),
});
export type PersonsContent = z.infer<typeof personsSchema>;
export type Clicked = PersonsContent['clicked'][number];

/** Persons who were clicked on a frame of a clip. */
export interface PersonsDrawing {
  readonly frame: number;
  readonly clicked: readonly Clicked[];
}

/** Every frame on which persons were clicked, in order. */
export const personsDrawings = ({ clicked }: PersonsContent): readonly PersonsDrawing[] =>
  [...new Set(clicked.map((c) => c.frame))].sort((a, b) => a - b).map((frame) => ({ frame, clicked: clicked.filter((c) => c.frame === frame) }));

/** Where what they cover lies, frame by frame; null where nobody was clicked. */
export const personsSeries = (plate: string, content: PersonsContent): string | null =>
  content.clicked.length === 0 ? null : `persons ${contentKey(ESTIMATE_VERSION, personsDrawings(content))} along ${plate}`;
