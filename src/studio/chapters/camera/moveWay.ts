import { moveValues, runEnds, runOf, type MoveDefinition } from '../../../core/camera/definition';
import { moveOf } from '../../../core/camera/registry';
import { setNumber } from '../../../core/document/driven';
import { hfovOf } from '../../../core/document/framing';
import type { MoveItem, Shot } from '../../../core/document/schema';
import { poseAt } from '../../../core/path/path';
import { clampNumber } from '../../../core/values/params';
import { changeSettings, type Gesture } from '../../state/documentStore';
import { lensOf } from '../../state/shotLens';
import { useView } from '../../state/viewStore';

/** m, in the camera's own axes where the plate was taken. */
export interface Place {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** The way of a move, alone: its ends, and what it is set to. */
export interface Way {
  readonly start: Place;
  readonly end: Place;
  readonly values: ReturnType<typeof moveValues>;
}

/** How a move goes by itself, as it is before it is dragged. */
export interface MoveWay extends Way {
  readonly definition: MoveDefinition;
  readonly run: ReturnType<typeof runOf>;
  readonly lens: ReturnType<typeof lensOf>;
  /** degrees */
  readonly hfov: number;
  /** where the camera is at a frame */
  readonly at: (frame: number) => Place;
}

export function moveWay(shot: Shot, item: MoveItem): MoveWay {
  const definition = moveOf(item.kind);
  const { time, camera } = shot.settings;
  const lens = lensOf(shot);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const alone = { time, camera: { ...camera, moves: [{ ...item, on: true }] } };
  const at = (frame: number): Place => poseAt(alone, hfov, { frame, fps: time.fps });
  const run = runOf(definition, item.values);
  const ends = run && runEnds(run, time.length);
  // what comes back ends where it turns
  const end = at(run?.returns && ends ? (ends.from + ends.to) / 2 : time.length - 1);
  return { definition, run, lens, hfov, at, start: at(0), end, values: moveValues(definition, item.values) };
}

/** The numbers that make the way lead elsewhere, as far as they may be, one digit finer than they are shown; one that is driven is so at the playhead. */
export function leadTo(
  id: string,
  { definition: { params, path }, values }: Pick<MoveWay, 'definition' | 'values'>,
  to: Place,
  gesture: Gesture,
): void {
  if (!path) return;
  const numbers = path.drag(values, to) as Record<string, number>;
  const { frame } = useView.getState();
  changeSettings((s) => {
    for (const [name, value] of Object.entries(numbers)) {
      const param = params[name];
      if (param?.type !== 'number') continue;
      setNumber(s, { place: 'move', item: id, name }, Number(clampNumber(param, value).toFixed(param.decimals + 1)), frame);
    }
  }, gesture);
}
