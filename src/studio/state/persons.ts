import { newId, newLayer } from '../../core/document/defaults';
import { personsLayer } from '../../core/depth/layers/persons/persons';
import type { PersonsContent } from '../../core/depth/layers/persons/content';
import type { EffectItem, Shot } from '../../core/document/schema';
import { isolate } from '../../core/effects/surface/isolate';
import { frameAt, pictureNeed } from '../../core/need/need';
import { engine } from '../../engine/pool/engine';
import type { FoundPerson } from '../../engine/messages/estimateApi';
import { notify, notifyError } from '../notices/noticeStore';
import { changeSettings, shotOf, useDocument, whileOpen } from './documentStore';
import { carryPersons } from './followRegion';
import { isFull } from './room';
import { progressOf, useSession } from './sessionStore';
import { momentOf } from './shotNow';

/** Looks for persons in the open shot as it is at the playhead, the largest first; null where it was stopped, or another shot is open by then. */
async function lookForPersons(shot: Shot): Promise<readonly FoundPerson[] | null> {
  const open = whileOpen();
  const job = engine().personsFound(pictureNeed(shot.plate, momentOf(shot), shot.plate.opaque), (share) => progress.report(share));
  const progress = progressOf('Finding persons', job.cancel, (estimating) => useSession.getState().set({ estimating }));
  try {
    const found = await job.done;
    return open() ? found : null;
  } finally {
    progress.end();
  }
}

const clickedAt = (shot: Shot, { x, y }: FoundPerson): PersonsContent['clicked'][number] => ({ x, y, frame: frameAt(shot.plate, momentOf(shot)) });

const NOBODY = { kind: 'note', text: 'No person is found in this picture.', hint: 'A shape or strokes in Depth mark a part of it by hand.' } as const;

/** All persons of the picture become those of a layer. */
export async function findAllPersons(layer: string): Promise<void> {
  const shot = shotOf(useDocument.getState());
  if (!shot) return;
  try {
    const found = await lookForPersons(shot);
    if (!found) return;
    if (found.length === 0) notify(NOBODY);
    else
      changeSettings((s) => {
        const to = s.layers.find((l) => l.id === layer);
        if (to) to.content = { clicked: found.map((person) => clickedAt(shot, person)) } satisfies PersonsContent;
      });
  } catch (error) {
    notifyError(error);
  }
}

/** An effect acts on the largest person of the picture from now on: a layer marks them, where others are clicked as well. One step of undo. */
export async function limitToPerson(item: EffectItem): Promise<void> {
  const shot = shotOf(useDocument.getState());
  if (!shot || isFull('layers')) return;
  try {
    const found = await lookForPersons(shot);
    if (!found) return;
    const [largest] = found;
    if (!largest) {
      notify(NOBODY);
      return;
    }
    const layer = { ...newLayer(personsLayer.kind), id: newId(), content: { clicked: [clickedAt(shot, largest)] } satisfies PersonsContent };
    changeSettings((s) => {
      const effect = s.effects.find((e) => e.id === item.id);
      if (!effect) return;
      s.layers.push(layer);
      effect.region = { layer: layer.id, outside: false };
      // a person is kept at any distance, until somebody limits it
      if (effect.kind === isolate.kind) Object.assign(effect.values, { from: 0, to: Infinity });
    });
    if (found.length > 1)
      notify({
        kind: 'note',
        text: `The largest of ${found.length} persons is chosen.`,
        hint: `Click others in Depth, with the layer ${layer.name} chosen.`,
      });
    if (shot.plate.clip) await carryPersons(shot, layer.content);
  } catch (error) {
    notifyError(error);
  }
}
