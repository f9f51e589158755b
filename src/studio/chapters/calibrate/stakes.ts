import { fitStakes, type StakeFit } from '../../../core/depth/calibrate';
import { calibrationOf, storedFar } from '../../../core/document/defaults';
import type { Shot } from '../../../core/document/schema';
import { clampNumber, type NumberParam } from '../../../core/values/params';
import type { PreviewPart } from '../../../engine/messages/protocol';
import { changeShot, type Gesture } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { notify } from '../../notices/noticeStore';
import { plateToOutput, probeAt } from '../../picture/probe';

/** The raw map's value at each stake; null where a stake lies outside the frame. */
export function rawAtStakes(shot: Shot, part: PreviewPart): (number | null)[] {
  return shot.settings.stakes.map((stake) => {
    const o = plateToOutput(shot, stake.x, stake.y);
    return probeAt(part, shot, o.x, o.y)?.raw ?? null;
  });
}

/** The ends (and bend) that the stakes ask for, or null where they cannot tell. */
export function fitOf(shot: Shot, part: PreviewPart): StakeFit | null {
  const raw = rawAtStakes(shot, part);
  const known = raw.flatMap((r, i) => (r === null ? [] : [{ r, z: shot.settings.stakes[i]!.distance }]));
  return fitStakes(
    known.map((k) => k.r),
    known.map((k) => k.z),
    calibrationOf(shot.settings.calibration),
  );
}

/** Sets a stake's distance and fits the ends to all stakes, in one step. */
export function setStake(id: string, distance: number, param: NumberParam, gesture?: Gesture): void {
  const part = useSession.getState().preview;
  let failed = false;
  changeShot((shot) => {
    const stake = shot.settings.stakes.find((s) => s.id === id);
    if (!stake) return;
    stake.distance = clampNumber(param, distance);
    failed = !fitInPlace(shot, part);
  }, gesture);
  if (failed)
    notify({
      kind: 'note',
      text: 'The stakes do not tell the ends apart.',
      hint: 'Put one on a nearer and one on a farther thing; the farther one needs the larger distance.',
    });
}

export function fitInPlace(shot: Shot, part: PreviewPart | null): boolean {
  const fit = part && fitOf(shot, part);
  if (!fit || !(fit.near > 0)) return false;
  const c = shot.settings.calibration;
  c.near = Math.min(1e6, Number(fit.near.toPrecision(5)));
  c.far = storedFar(Number.isFinite(fit.far) ? Number(fit.far.toPrecision(5)) : Infinity);
  c.bend = Math.min(10, Math.max(0.1, Number(fit.bend.toPrecision(4))));
  c.scaled = true;
  return true;
}
