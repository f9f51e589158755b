import type { EffectItem, Shot } from '../../../core/document/schema';
import { setNumber } from '../../../core/document/driven';
import { effectOf } from '../../../core/effects/registry';
import { clampNumber, formatMetres, hasSay } from '../../../core/values/params';
import { paramsAt } from '../../../core/values/moment';
import { beginGesture, keyGesture, type Gesture } from '../../state/documentStore';
import { momentOf } from '../../state/shotNow';
import { useView, useViewPart } from '../../state/viewStore';
import type { Placement } from '../../picture/geometry';
import { useTint } from '../../controls/useTint';
import { startDrag } from '../depth/plateView';
import { Handle } from '../depth/tools/Handle';
import { placeAt, seenAt } from './inSpace';

/** px of the output that an arrow key moves a handle by, as a share of its width */
const STEP = 0.004;

/** What of the effect in hand has a place in the picture: a lamp, a source, a middle. Lamps stay where they hang while the camera moves. */
export function EffectHandles({ shot, place, box }: { shot: Shot; place: Placement; box: () => DOMRect }) {
  const { selectedEffect } = useViewPart('selectedEffect', 'frame');
  const item = shot.settings.effects.find((e) => e.id === selectedEffect && e.on);
  if (!item) return null;
  const { place: hangs, centre, params } = effectOf(item.kind);
  if (hangs && hasSay(params[hangs.right]!, item.values, params)) return <PlaceHandle shot={shot} item={item} place={place} box={box} />;
  return centre ? <CentreHandle shot={shot} item={item} place={place} box={box} /> : null;
}

interface Props {
  readonly shot: Shot;
  readonly item: EffectItem;
  readonly place: Placement;
  readonly box: () => DOMRect;
}

function write(item: EffectItem, values: Readonly<Record<string, number>>, gesture: Gesture): void {
  const { params } = effectOf(item.kind);
  gesture.set((s) => {
    for (const [name, value] of Object.entries(values)) {
      const param = params[name];
      if (param?.type !== 'number') continue;
      setNumber(s.settings, { place: 'effect', item: item.id, name }, Number(clampNumber(param, value).toPrecision(4)), useView.getState().frame);
    }
  });
}

/** A pointer's place, shares of the output. */
const shareAt = ({ shot, place, box }: Props, event: { clientX: number; clientY: number }): { x: number; y: number } => {
  const rect = box();
  const { width, height } = shot.settings.framing;
  return { x: (event.clientX - rect.left - place.left) / (place.scale * width), y: (event.clientY - rect.top - place.top) / (place.scale * height) };
};

/** A handle that is dragged or moved by keys; `to` says what its place in the picture sets. */
function Placing({
  of,
  at,
  label,
  colour,
  to,
}: {
  of: Props;
  at: { x: number; y: number };
  label: string;
  colour?: string;
  to: (x: number, y: number) => Readonly<Record<string, number>>;
}) {
  const { shot, item, place } = of;
  const { width, height } = shot.settings.framing;
  return (
    <Handle
      at={{ x: place.left + at.x * place.scale, y: place.top + at.y * place.scale }}
      label={label}
      chosen
      {...(colour !== undefined && { colour })}
      onPointerDown={(event) => {
        const gesture = beginGesture();
        startDrag(
          event,
          (e) => {
            const { x, y } = shareAt(of, e);
            write(item, to(x, y), gesture);
          },
          (moved) => (moved ? gesture.commit() : gesture.cancel()),
          () => gesture.cancel(),
        );
      }}
      onStep={(dx, dy) => {
        const values = to(at.x / width + dx * STEP, at.y / height + dy * STEP);
        write(item, values, keyGesture(`${item.id} place`));
      }}
    />
  );
}

function PlaceHandle(props: Props) {
  const { shot, item } = props;
  const tint = useTint();
  const definition = effectOf(item.kind);
  const { right, up, distance } = definition.place!;
  const values = paramsAt(definition, item, momentOf(shot)) as Record<string, number>;
  const at = [values[right]!, -values[up]!, values[distance]!] as const;
  const seen = seenAt(shot, at);
  if (!seen) return null;
  return (
    <Placing
      of={props}
      at={seen}
      colour={tint(at[2])}
      label={`${definition.label}: lamp at ${formatMetres(at[2])}. Drag, or arrow keys`}
      to={(x, y) => {
        const found = placeAt(shot, x, y, at[2]);
        return { [right]: found[0], [up]: -found[1] };
      }}
    />
  );
}

function CentreHandle(props: Props) {
  const { shot, item } = props;
  const definition = effectOf(item.kind);
  const { x, y } = definition.centre!;
  const values = paramsAt(definition, item, momentOf(shot)) as Record<string, number>;
  const { width, height } = shot.settings.framing;
  return (
    <Placing
      of={props}
      at={{ x: (values[x]! / 100) * width, y: (values[y]! / 100) * height }}
      label={`${definition.label}: its middle. Drag, or arrow keys`}
      to={(u, v) => ({ [x]: 100 * u, [y]: 100 * v })}
    />
  );
}
