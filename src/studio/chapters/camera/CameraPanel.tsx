import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { moveValues } from '../../../core/camera/definition';
import { hasCamera } from '../../../core/path/path';
import { knowsMove, moveOf } from '../../../core/camera/registry';
import { newId } from '../../../core/document/defaults';
import type { MoveItem } from '../../../core/document/schema';
import { copyOf } from '../../../core/values/copy';
import { ParamRows } from '../../controls/ParamRows';
import { PanelHead, Section } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { UnknownNote } from '../../controls/UnknownNote';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot, type Gesture } from '../../state/documentStore';
import { isFull } from '../../state/room';
import { useSession } from '../../state/sessionStore';
import { useShotNow } from '../../state/shotNow';
import { useView, useViewPart } from '../../state/viewStore';
import { AddMove } from './AddMove';
import { EyesSection } from './EyesSection';
import { BorderSection, StretchSection } from './LimitSections';
import { PathView } from './PathView';

const change = (id: string, recipe: (m: MoveItem) => void, gesture?: Gesture): void =>
  changeSettings((s) => {
    const found = s.camera.moves.find((m) => m.id === id);
    if (found) recipe(found);
  }, gesture);

/** Moves of the camera, what they tear open, what becomes of the border, and two eyes. */
export function CameraPanel() {
  const shot = useShot()!;
  const selectedMove = useView((s) => s.selectedMove);
  const relief = useSession((s) => s.relief);
  const path = useSession((s) => s.path);
  const tintOf = useTint();
  const { moves } = shot.settings.camera;
  const item = moves.find((m) => m.id === selectedMove);
  return (
    <>
      <PanelHead title="Camera">
        <AddMove />
      </PanelHead>
      {moves.length === 0 && <Box sx={{ padding: '14px', color: 'var(--mute)' }}>The camera stands still. Add a move, and the picture plays.</Box>}
      <MoveList moves={moves} />
      {item && !knowsMove(item.kind) && <UnknownNote kind={item.kind} out="picture" />}
      {item && knowsMove(item.kind) && (
        <>
          <PathView shot={shot} item={item} />
          <ParamRows
            params={moveOf(item.kind).params}
            of={{ place: 'move', item: item.id }}
            values={item.values}
            tintOf={tintOf}
            onChange={(name, value, gesture) => change(item.id, (m) => void (m.values[name] = value), gesture)}
          />
        </>
      )}
      {moves.length > 0 && relief && path && <StretchSection shot={shot} relief={relief} path={path} />}
      {hasCamera(shot.settings) && <BorderSection shot={shot} path={path} />}
      <Judge />
      <EyesSection shot={shot} relief={relief} />
    </>
  );
}

/** All moves, in their order. */
function MoveList({ moves }: { moves: readonly MoveItem[] }) {
  const now = useShotNow()!;
  const { selectedMove, set } = useViewPart('selectedMove', 'set');
  return (
    <StackList
      label="Moves, all at once"
      items={moves.map((m, k) => {
        const definition = moveOf(m.kind);
        return {
          id: m.id,
          name: definition.label,
          on: m.on,
          summary: definition.summary(moveValues(definition, now.settings.camera.moves[k]!.values)),
          unknown: !knowsMove(m.kind),
        };
      })}
      selected={selectedMove}
      onSelect={(id) => set({ selectedMove: id })}
      onSwitch={(id, on) => change(id, (m) => void (m.on = on))}
      onDelete={(id) => changeSettings((s) => void (s.camera.moves = s.camera.moves.filter((m) => m.id !== id)))}
      onDuplicate={(id) => {
        if (isFull('moves')) return;
        const copy = { ...copyOf(moves.find((m) => m.id === id)!), id: newId() };
        changeSettings((s) => void s.camera.moves.splice(s.camera.moves.findIndex((m) => m.id === id) + 1, 0, copy));
        set({ selectedMove: copy.id });
      }}
      onMove={(id, to) =>
        changeSettings((s) => {
          const from = s.camera.moves.findIndex((m) => m.id === id);
          s.camera.moves.splice(to, 0, ...s.camera.moves.splice(from, 1));
        })
      }
    />
  );
}

/** Ways to judge the map by eye. */
function Judge() {
  const { wobble, follow, set } = useViewPart('wobble', 'follow', 'set');
  return (
    <Section title="To judge the map">
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button
          fullWidth
          aria-pressed={wobble}
          title="Hold v"
          sx={wobble ? { borderColor: 'var(--paper)' } : undefined}
          onClick={() => set({ wobble: !wobble, follow: false })}
        >
          Wobble
        </Button>
        <Button
          fullWidth
          aria-pressed={follow}
          sx={follow ? { borderColor: 'var(--paper)' } : undefined}
          onClick={() => set({ follow: !follow, wobble: false })}
        >
          Follow the pointer
        </Button>
      </Box>
    </Section>
  );
}
