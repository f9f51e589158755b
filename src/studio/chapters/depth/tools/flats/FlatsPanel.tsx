import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import { useRef, useState } from 'react';
import type { Flat, FlatsContent } from '../../../../../core/depth/layers/flats/content';
import type { Layer } from '../../../../../core/document/schema';
import { metres, percent } from '../../../../../core/values/params';
import { formatMetres } from '../../../../../core/values/params';
import { NumberRow } from '../../../../controls/NumberRow';
import { LabelRow, Section } from '../../../../controls/rows';
import { StackList } from '../../../../controls/StackList';
import { useTint } from '../../../../controls/useTint';
import { notifyError } from '../../../../notices/noticeStore';
import { keyGesture, type Gesture } from '../../../../state/documentStore';
import { changeContent, contentIn, isLocked } from '../../layerActions';
import { addCard, addPicture, addText, setText } from './addFlat';
import { useFlats } from './flatsStore';

const DISTANCE = metres({ label: 'Distance', min: 0.2, max: 300, lowest: 0.01, highest: 1e6, default: 3 });
const HEIGHT = percent({ label: 'Height', min: 1, max: 150, lowest: 0.1, highest: 2000, default: 40, decimals: 1, help: 'Of the plate’s height' });
const SHAPE = percent({ label: 'Width', min: 10, max: 400, lowest: 1, highest: 10000, default: 70, help: 'Of its own height' });

/** The flats of a layer: pictures, words and cards, each at a distance. */
export function FlatsPanel({ layer }: { layer: Layer }) {
  const { flat: chosen, set } = useFlats();
  const { flats } = contentIn<FlatsContent>(layer);
  const active = flats.find((f) => f.id === chosen);
  return (
    <>
      <AddFlats layer={layer} count={flats.length} />
      <Box sx={{ maxHeight: 230, overflowY: 'auto', borderTop: '1px solid var(--line)' }}>
        <StackList
          label="Flats, the nearest first"
          items={[...flats]
            .sort((a, b) => a.distance - b.distance)
            .map((f) => ({ id: f.id, name: f.name, on: f.visible, summary: formatMetres(f.distance) }))}
          selected={chosen}
          onSelect={(id) => set({ flat: id })}
          onSwitch={(id, visible) => changeFlat(layer, id, { visible })}
          onDelete={(id) => !isLocked(layer) && changeContent<FlatsContent>(layer.id, (c) => void (c.flats = c.flats.filter((f) => f.id !== id)))}
        />
      </Box>
      {active && <FlatValues layer={layer} active={active} />}
    </>
  );
}

function changeFlat(layer: Layer, id: string, part: Partial<Flat>, gesture?: Gesture): void {
  if (isLocked(layer)) return;
  const recipe = ({ flats }: FlatsContent): void => {
    const found = flats.find((f) => f.id === id);
    if (found) Object.assign(found, part);
  };
  changeContent<FlatsContent>(layer.id, recipe, gesture);
}

/** Pictures, a card or words become flats. */
function AddFlats({ layer, count }: { layer: Layer; count: number }) {
  const input = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  return (
    <Section title="Flats" aside={<span className="mono">{count}</span>} last>
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button fullWidth onClick={() => input.current?.click()}>
          Add pictures…
        </Button>
        <Button fullWidth onClick={() => addCard(layer.id)}>
          Add a card
        </Button>
      </Box>
      <Box
        component="form"
        onSubmit={(e: React.FormEvent) => {
          e.preventDefault();
          if (!words.trim()) return;
          void addText(layer.id, words.trim()).catch(notifyError);
          setWords('');
        }}
        sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}
      >
        <InputBase
          value={words}
          placeholder="Words"
          onChange={(e) => setWords(e.target.value)}
          inputProps={{ 'aria-label': 'Words for a new flat', maxLength: 200 }}
          sx={{ flex: 1, borderBottom: '1px dotted var(--line2)' }}
        />
        <Button type="submit" disabled={!words.trim()}>
          Add words
        </Button>
      </Box>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        data-testid="add-flats"
        accept="image/png,image/jpeg,image/webp,image/avif"
        onChange={(e) => {
          const files = Array.from(e.target.files ?? []);
          e.target.value = '';
          void (async () => {
            for (const file of files) await addPicture(layer.id, file).catch(notifyError);
          })();
        }}
      />
    </Section>
  );
}

/** What the chosen flat is set to. */
function FlatValues({ layer, active }: { layer: Layer; active: Flat }) {
  const tint = useTint();
  const change = (part: Partial<Flat>, gesture?: Gesture): void => changeFlat(layer, active.id, part, gesture);
  const write = (words: string, colour: string): void => void setText(layer.id, active, words, colour).catch(notifyError);
  return (
    <Section title={active.name} last>
      <NumberRow
        param={DISTANCE}
        value={active.distance}
        tint={tint(active.distance)}
        onChange={(distance, gesture) => change({ distance }, gesture)}
      />
      <NumberRow param={HEIGHT} value={100 * active.height} onChange={(v, gesture) => change({ height: v / 100 }, gesture)} />
      {!active.media && <NumberRow param={SHAPE} value={100 * active.aspect} onChange={(v, gesture) => change({ aspect: v / 100 }, gesture)} />}
      {active.text !== null && (
        <LabelRow label="Words">
          <InputBase
            key={active.id}
            defaultValue={active.text}
            inputProps={{ 'aria-label': 'Words', maxLength: 200 }}
            onBlur={({ target: { value } }) => value.trim() && value !== active.text && write(value.trim(), active.colour)}
            onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLElement).blur()}
            sx={{ borderBottom: '1px dotted var(--line2)' }}
          />
        </LabelRow>
      )}
      {(!active.media || active.text !== null) && (
        <LabelRow label="Colour">
          <Box sx={{ display: 'flex', justifyContent: 'flex-end' }}>
            <InputBase
              type="color"
              value={active.colour}
              onChange={({ target: { value } }) =>
                active.text === null ? change({ colour: value }, keyGesture(active.id)) : write(active.text, value)
              }
              inputProps={{ 'aria-label': 'Colour' }}
              sx={{ width: 44 }}
            />
          </Box>
        </LabelRow>
      )}
    </Section>
  );
}
