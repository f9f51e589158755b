import { beforeEach, expect, test } from '@jest/globals';
import { newProject, newShot, storedFar } from '../../../core/document/defaults';
import type { Shot } from '../../../core/document/schema';
import { metres } from '../../../core/values/params';
import type { PreviewPart } from '../../../engine/messages/protocol';
import { shotOf, useDocument } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { useNotices } from '../../notices/noticeStore';
import { setStake } from './stakes';

const plate = { sha256: 'c'.repeat(64), name: 'p.png', width: 100, height: 50, bits: 8, hfovFromFile: 60 };
const param = metres({ label: 'Distance', min: 0.1, max: 100, lowest: 0.01, highest: 1e6, default: 1 });
let shot: Shot;
const calibration = () => shotOf(useDocument.getState())!.settings.calibration;

beforeEach(() => {
  shot = newShot(plate);
  Object.assign(shot.settings.calibration, { near: 1, far: 10, bend: 1, spacing: 'perspective' });
  // raw grey grows from left to right
  const raw = Float32Array.from({ length: 5000 }, (_, i) => (i % 100) / 99);
  shot.settings.stakes = [
    { id: 'far', x: 0.105, y: 0.5, distance: 20 },
    { id: 'near', x: 0.905, y: 0.5, distance: 3 },
  ];
  useDocument.getState().open({ ...newProject('T'), shots: [shot] }, shot.id);
  const part = { stage: 'full', size: { width: 100, height: 50 }, raw, distance: raw, stack: raw };
  useSession.setState({ preview: part as unknown as PreviewPart });
  useNotices.setState({ notices: [] });
});

test('typing a distance fits the ends to all stakes, in one step', () => {
  setStake('near', 2, param);
  const c = calibration();
  // 1/z is linear in grey: the ends follow from the two stakes
  const [a, b] = [10 / 99, 90 / 99];
  const slope = (1 / 2 - 1 / 20) / (b - a);
  expect(1 / c.near).toBeCloseTo(1 / 2 + (1 - b) * slope, 3);
  // black would lie beyond infinity (its 1/z is below 0): the far end is infinite
  expect(1 / 20 - a * slope).toBeLessThan(0);
  expect(c.far).toBe(storedFar(Infinity));
  expect(c.scaled).toBe(true);
  expect(useDocument.getState().past).toHaveLength(1);
  useDocument.getState().undo();
  expect(calibration()).toMatchObject({ near: 1, far: 10 });
});

test('a distance beyond what can be typed is held at the limit', () => {
  setStake('far', 1e9, param);
  expect(shotOf(useDocument.getState())!.settings.stakes[0]!.distance).toBe(1e6);
});

test('stakes that contradict the map are told; the distance stays as typed, the ends as they were', () => {
  setStake('far', 1, param);
  setStake('near', 1, param);
  const stakes = shotOf(useDocument.getState())!.settings.stakes.map((s) => s.distance);
  expect(stakes).toEqual([1, 1]);
  const notices = useNotices.getState().notices.filter((n) => n.text === 'The stakes do not tell the ends apart.');
  expect(notices).toHaveLength(1);
  expect(notices[0]!.hint).toContain('nearer');
});

test('without a picture yet nothing is fitted, and a stake that is gone changes nothing', () => {
  useSession.setState({ preview: null });
  setStake('near', 2, param);
  expect(calibration()).toMatchObject({ near: 1, far: 10 });
  const before = useDocument.getState().project;
  setStake('nobody', 5, param);
  expect(useDocument.getState().project).toBe(before);
});
