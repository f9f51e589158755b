import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRef } from 'react';
import { newLayer } from '../../../core/document/defaults';
import { layerOf } from '../../../core/depth/layers/registry';
import { percent, valuesSchema } from '../../../core/values/params';
import { engine } from '../../../engine/engine';
import { database } from '../../../store/database';
import { putMedia } from '../../../store/media';
import { NumberRow } from '../../controls/NumberRow';
import { ParamRows } from '../../controls/ParamRows';
import { PanelHead, Section } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot } from '../../state/documentStore';
import { notifyError, session } from '../../state/session';
import { notify, useSession } from '../../state/sessionStore';
import { useView, useViewPart } from '../../state/viewStore';

const OPACITY = percent({ label: 'Opacity', min: 0, max: 100, default: 100 });

/** Brings a map in as a new layer on top. */
async function importMap(file: File): Promise<void> {
  try {
    const { facts, sha256, colourful } = await engine().decodeMap(file, file.name);
    await putMedia(database(), sha256, file.name, file);
    const layer = { ...newLayer('imported', { sha256, name: file.name, width: facts.width, height: facts.height }), name: file.name };
    changeSettings((s) => void s.layers.push(layer));
    useView.getState().set({ selectedLayer: layer.id });
    if (colourful)
      notify({
        kind: 'note',
        text: `${file.name} is a colour picture.`,
        hint: 'Its brightness is used as depth. If that is not what you want, undo.',
      });
  } catch (error) {
    notifyError(error);
  }
}

export function DepthPanel() {
  const shot = useShot()!;
  const { selectedLayer, set } = useViewPart('selectedLayer', 'set');
  const maps = useSession((s) => s.maps);
  const shownQuality = useSession((s) => s.shownQuality);
  const estimating = useSession((s) => s.estimating);
  const tintOf = useTint();
  const input = useRef<HTMLInputElement>(null);
  const { layers } = shot.settings;
  const layer = layers.find((l) => l.id === selectedLayer);
  const change = (id: string, recipe: (l: (typeof layers)[number]) => void, key?: string): void =>
    changeSettings(
      (s) => {
        const found = s.layers.find((l) => l.id === id);
        if (found) recipe(found);
      },
      key && `layer:${id}:${key}`,
    );
  const summary = (l: (typeof layers)[number]): string => {
    const definition = layerOf(l.kind);
    if (!(l.id in maps) && definition.source !== 'none') return 'coming…';
    if (definition.source === 'estimate') return shownQuality[l.id] ?? '';
    return definition.summary(valuesSchema(definition.params).parse(l.values));
  };
  return (
    <>
      <PanelHead title="Depth stack">
        <Button sx={{ height: 24, padding: '0 8px' }} onClick={() => input.current?.click()}>
          Import map…
        </Button>
        {!layers.some((l) => l.kind === 'estimate') && (
          <Button
            sx={{ height: 24, padding: '0 8px' }}
            onClick={() => {
              const estimate = newLayer('estimate');
              changeSettings((s) => void s.layers.unshift(estimate));
              set({ selectedLayer: estimate.id });
            }}
          >
            Estimate
          </Button>
        )}
        <input
          ref={input}
          type="file"
          hidden
          data-testid="import-map"
          accept="image/png,image/jpeg,image/webp,image/avif,.pfm"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = '';
            if (file) void importMap(file);
          }}
        />
      </PanelHead>
      <StackList
        label="Depth layers, the top one first"
        items={[...layers].reverse().map((l) => ({ id: l.id, name: l.name, on: l.visible, summary: summary(l) }))}
        selected={selectedLayer}
        onSelect={(id) => set({ selectedLayer: id })}
        onSwitch={(id, on) => change(id, (l) => void (l.visible = on))}
        onDelete={(id) => changeSettings((s) => void (s.layers = s.layers.filter((l) => l.id !== id)))}
        onMove={(id, by) =>
          changeSettings((s) => {
            const from = s.layers.findIndex((l) => l.id === id);
            const to = from - by;
            if (to < 0 || to >= s.layers.length) return;
            const [moved] = s.layers.splice(from, 1);
            s.layers.splice(to, 0, moved!);
          })
        }
      />
      {layers.length === 0 && (
        <Box sx={{ padding: '14px', color: 'var(--mute)' }}>There is no depth yet. Estimate it from the picture, or import a map.</Box>
      )}
      {layer && (
        <>
          <Section title={layer.name}>
            <NumberRow
              param={OPACITY}
              value={100 * layer.opacity}
              onChange={(v, key) => change(layer.id, (l) => void (l.opacity = v / 100), `opacity:${key}`)}
            />
            {layers[0] === layer && layers.length > 1 && <Box sx={{ color: 'var(--mute)', fontSize: 11.5 }}>The lowest layer is always opaque.</Box>}
          </Section>
          <ParamRows
            params={layerOf(layer.kind).params}
            values={layer.values}
            tintOf={tintOf}
            onChange={(name, value, key) => change(layer.id, (l) => void (l.values[name] = value), key)}
          />
          {layer.kind === 'estimate' && (
            <Section last>
              <Button fullWidth disabled={estimating !== null} onClick={() => void session().estimateAgain(layer.id)}>
                Estimate again
              </Button>
            </Section>
          )}
        </>
      )}
    </>
  );
}
