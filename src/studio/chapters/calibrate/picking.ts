import { newId } from '../../../core/document/defaults';
import { changeSettings, shotOf, useDocument } from '../../state/documentStore';
import type { Picking } from '../../state/picking';
import { isFull } from '../../state/room';
import { useView } from '../../state/viewStore';
import { outputToPlate } from '../../picture/probe';

/** Puts a stake where the picture is clicked. */
export const stakePicking: Picking = {
  id: 'stake',
  prompt: 'Click a thing whose distance you know',
  take: ({ distance, x, y }) => {
    const shot = shotOf(useDocument.getState());
    if (!shot || isFull('stakes')) return;
    const id = newId();
    const place = outputToPlate(shot, x, y);
    changeSettings((s) => {
      s.stakes.push({ id, ...place, distance: Number(Math.min(1e6, Math.max(0.01, distance)).toPrecision(3)) });
    });
    useView.getState().set({ selectedStake: id });
  },
};
