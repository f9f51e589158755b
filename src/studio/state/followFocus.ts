import { playedRange, setDrive, type NumberAddress } from '../../core/document/driven';
import { thinReadings, type Point } from '../../core/motion/track';
import { clampNumber, type NumberParam } from '../../core/values/params';
import { engine } from '../../engine/pool/engine';
import { notify } from '../notices/noticeStore';
import { clipJob } from './clipJob';
import { changeSettings, shotOf, useDocument, whileOpen } from './documentStore';
import { requestOf } from './previewLoop';
import { useSession } from './sessionStore';

/** Keys are left out where lines between the others miss a distance by no more than this share of it. */
const TOLERANCE = 0.015;

/** A distance becomes that of a point of the clip, as it goes through the range: keys, as few as say it. */
export async function followFocus(address: NumberAddress, param: NumberParam, start: Point): Promise<void> {
  const shot = shotOf(useDocument.getState());
  if (!shot?.plate.clip) return;
  const { given } = useSession.getState();
  const open = whileOpen();
  const span = playedRange(shot.settings);
  await clipJob('Following a point', async ({ run, report }) => {
    const found = await run(engine().followPoint(requestOf(shot, shot.settings.framing), given, start, span, report));
    if (!found || !open()) return;
    const readings = found.map(({ frame, distance }) => ({ frame, value: clampNumber(param, distance) }));
    const keys = thinReadings(readings, TOLERANCE, Math.log).map((r) => ({ ...r, easing: 'straight' as const }));
    changeSettings((s) => setDrive(s, address, { kind: 'keys', keys }));
    const [first, last] = [found[0]!.frame, found[found.length - 1]!.frame];
    const whole = first === span.from && last === span.to;
    notify({
      kind: 'note',
      text: `The focus follows the point from frame ${first} to ${last}: ${keys.length} keys.`,
      hint: whole ? 'They can be moved on the timeline.' : 'Beyond, it is hidden or out of the picture; the focus stays where it was.',
    });
  });
}
