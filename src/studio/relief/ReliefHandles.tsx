import type { EffectItem, Shot } from '../../core/document/schema';
import { isTimed, setNumber } from '../../core/document/driven';
import { effectOf } from '../../core/effects/registry';
import { clampNumber, formatMetres, hasSay } from '../../core/values/params';
import { paramsAt } from '../../core/values/moment';
import { leadTo, moveWay, type Place } from '../chapters/camera/moveWay';
import { startDrag } from '../chapters/depth/plateView';
import { Handle } from '../chapters/depth/tools/Handle';
import { useTint } from '../controls/useTint';
import { beginGesture, keyGesture, type Gesture } from '../state/documentStore';
import { momentOf } from '../state/shotNow';
import { useView } from '../state/viewStore';
import type { ReliefStage } from './reliefStage';

interface Props {
  readonly shot: Shot;
  readonly stage: ReliefStage;
}

/** px of the page that an arrow key moves something by. */
const STEP = 4;

interface InSpaceProps {
  readonly stage: ReliefStage;
  readonly at: Place;
  readonly label: string;
  readonly colour?: string;
  /** what its steps by keys are told apart by */
  readonly name: string;
  /** it stands among the things of the picture, and farther away where these do */
  readonly inScene: boolean;
  readonly put: (to: Place, gesture: Gesture) => void;
}

/** Something that hangs in space and is dragged there, as far from the eye as it was. */
function InSpace({ stage, at, label, colour, put, name, inScene }: InSpaceProps) {
  const seen = stage.seenAt(at, inScene);
  if (!seen) return null;
  return (
    <Handle
      at={seen}
      label={label}
      chosen
      {...(colour !== undefined && { colour })}
      onPointerDown={(event) => {
        const gesture = beginGesture();
        const from = { x: event.clientX, y: event.clientY };
        startDrag(
          event,
          (e) => put(stage.movedBy(at, e.clientX - from.x, e.clientY - from.y, inScene), gesture),
          (moved) => (moved ? gesture.commit() : gesture.cancel()),
          () => gesture.cancel(),
        );
      }}
      onStep={(dx, dy) => put(stage.movedBy(at, STEP * dx, STEP * dy, inScene), keyGesture(name))}
    />
  );
}

/** Lamps of Relight where they hang, and the ends of the camera's moves. */
export function ReliefHandles({ shot, stage }: Props) {
  const lamps = shot.settings.effects.filter((e) => {
    const { place, params } = effectOf(e.kind);
    return e.on && place && hasSay(params[place.right]!, e.values, params);
  });
  const moves = isTimed(shot) && !stage.atPlate ? shot.settings.camera.moves.filter((m) => m.on) : [];
  return (
    <>
      {lamps.map((item) => (
        <Lamp key={item.id} shot={shot} stage={stage} item={item} />
      ))}
      {moves.map((item) => (
        <MoveEnd key={item.id} shot={shot} stage={stage} item={item} />
      ))}
    </>
  );
}

function Lamp({ shot, stage, item }: Props & { item: EffectItem }) {
  const tint = useTint();
  const definition = effectOf(item.kind);
  const { right, up, distance } = definition.place!;
  const values = paramsAt(definition, item, momentOf(shot));
  const at = { x: Number(values[right]), y: -Number(values[up]), z: Number(values[distance]) };
  const put = (to: Place, gesture: Gesture): void =>
    gesture.set((s) => {
      for (const [name, value] of [
        [right, to.x],
        [up, -to.y],
        [distance, to.z],
      ] as const) {
        const param = definition.params[name];
        if (param?.type === 'number')
          setNumber(s.settings, { place: 'effect', item: item.id, name }, Number(clampNumber(param, value).toPrecision(4)), useView.getState().frame);
      }
    });
  return (
    <InSpace
      stage={stage}
      at={at}
      inScene
      name={`${item.id} in space`}
      label={`${definition.label}: at ${formatMetres(at.z)}`}
      colour={tint(Math.max(0.01, at.z))}
      put={put}
    />
  );
}

function MoveEnd({ shot, stage, item }: Props & { item: Shot['settings']['camera']['moves'][number] }) {
  const way = moveWay(shot, item);
  if (!way.definition.path) return null;
  const { start, end } = way;
  return (
    <InSpace
      stage={stage}
      at={end}
      inScene={false}
      name={`${item.id} end in space`}
      label={`End of ${way.definition.label}`}
      put={(to, gesture) => leadTo(item.id, way, { x: to.x - start.x, y: to.y - start.y, z: to.z - start.z }, gesture)}
    />
  );
}
