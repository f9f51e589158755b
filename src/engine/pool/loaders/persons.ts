import { needKey, type PersonsNeed } from '../../../core/need/need';
import type { Loader, Work } from './definition';

const WORK: Work = { doing: 'Finding persons', stopped: 'Finding persons was stopped.', hint: 'Click them again in Depth.' };

/** What persons cover of a still: what was kept, or found now. */
export const loadPersons: Loader<PersonsNeed> = async (need, { engine, sources, wanted, hold, given, without, watch }) => {
  const key = needKey(need);
  const kept = await sources.kept(key);
  if (!wanted()) return;
  const plane = kept ?? (await watch(WORK, (report) => engine.personsCover(need, report)));
  if (!wanted()) return;
  if (!plane) {
    without('stopped');
    return;
  }
  hold('map', key, plane);
  if (!kept) await sources.keep(key, plane);
  if (wanted()) given(key);
};
