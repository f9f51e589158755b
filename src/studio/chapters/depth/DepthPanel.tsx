import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { Suspense, useRef, useState } from 'react';
import { contentOf } from '../../../core/depth/definition';
import { knowsLayer, layerOf } from '../../../core/depth/layers/registry';
import { BLEND_LABELS, blends, type Blend } from '../../../core/depth/blend';
import { isTimed } from '../../../core/document/driven';
import { layerAt } from '../../../core/document/keyedLayer';
import type { Layer, Shot } from '../../../core/document/schema';
import { networkOf } from '../../../core/need/estimators';
import { needKey } from '../../../core/need/need';
import { layerMapNeed, seenLayers } from '../../../core/shot/needs';
import { paramsAt } from '../../../core/values/moment';
import { opacityParam } from '../../../core/document/driven';
import { MAP_TYPES } from '../../../formats/registry';
import { DrivenRow } from '../../controls/DrivenRow';
import { ParamRows } from '../../controls/ParamRows';
import { LabelRow, PanelHead, Section } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { UnknownNote } from '../../controls/UnknownNote';
import { steady } from '../../controls/steady';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot } from '../../state/documentStore';
import { shownQuality } from '../../state/provider';
import { useSession } from '../../state/sessionStore';
import { useLayerNow } from '../../state/useLayerNow';
import { useView, useViewPart } from '../../state/viewStore';
import { AddLayer } from './AddLayer';
import { CleanupSection } from './CleanupSection';
import { importMaps } from './importMap';
import { changeLayer, duplicateLayer, isLocked } from './layerActions';
import { KeysSection } from './KeysSection';
import { toolOf } from './tools/registry';

/** What a layer says of itself in the list. */
function useSummary(shot: Shot): (layer: Layer) => string {
  const given = useSession((s) => s.given);
  const without = useSession((s) => s.without);
  const frame = useView((s) => (isTimed(shot) ? s.frame : 0));
  const playing = useView((s) => s.playing);
  const { layers } = shot.settings;
  /** what was known of layers' estimates: of frames that play it is not asked */
  const [known] = useState(() => new Map<string, string>());
  return (l) => {
    const definition = layerOf(l.kind);
    const at = { frame, fps: shot.settings.time.fps };
    const need = layerMapNeed(l, shot.plate, at);
    const here = layerAt(l, frame);
    const values = paramsAt(definition, here, at);
    // of a clip only what is seen is brought
    const hidden = shot.plate.clip && !seenLayers(layers).includes(l);
    if (need && !hidden && !(needKey(need) in given)) return without[needKey(need)] ?? ((playing && known.get(l.id)) || 'coming…');
    if (need?.is === 'estimate') {
      const quality = shownQuality(need, given);
      const found = quality && (networkOf({ ...need, quality })?.name ?? quality);
      if (found) known.set(l.id, found);
      return found ?? (hidden ? definition.summary(values, contentOf(definition, here.content)) : '');
    }
    return definition.summary(values, contentOf(definition, here.content));
  };
}

/** The layers of the stack, the top one first. */
function LayerList({ shot }: { shot: Shot }) {
  const { selectedLayer, set } = useViewPart('selectedLayer', 'set');
  const summary = useSummary(shot);
  const { layers } = shot.settings;
  return (
    <StackList
      label="Depth layers, the top one first"
      items={[...layers]
        .reverse()
        .map((l) => ({ id: l.id, name: l.name, on: l.visible, summary: summary(l), locked: l.locked, unknown: !knowsLayer(l.kind) }))}
      selected={selectedLayer}
      onSelect={(id) => set({ selectedLayer: id, picking: null })}
      onSwitch={(id, on) => changeLayer(id, (l) => void (l.visible = on))}
      onDelete={(id) => {
        const found = layers.find((l) => l.id === id);
        if (found && !isLocked(found)) changeSettings((s) => void (s.layers = s.layers.filter((l) => l.id !== id)));
      }}
      onRename={(id, name) => changeLayer(id, (l) => void (l.name = name))}
      onDuplicate={duplicateLayer}
      onLock={(id, locked) => changeLayer(id, (l) => void (l.locked = locked))}
      onMove={(id, to) =>
        changeSettings((s) => {
          const from = s.layers.findIndex((l) => l.id === id);
          const [moved] = s.layers.splice(from, 1);
          // the list shows the top one first
          s.layers.splice(s.layers.length - to, 0, moved!);
        })
      }
    />
  );
}

/** The depth stack, what the chosen layer is set to, and clean-up. */
export function DepthPanel() {
  const shot = useShot()!;
  const selectedLayer = useView((s) => s.selectedLayer);
  const input = useRef<HTMLInputElement>(null);
  const { layers } = shot.settings;
  const layer = useLayerNow(layers.find((l) => l.id === selectedLayer));
  return (
    <>
      <PanelHead title="Depth stack">
        <Button sx={{ height: 24, padding: '0 8px' }} onClick={() => input.current?.click()}>
          Import map…
        </Button>
        <AddLayer onImport={() => input.current?.click()} />
        <input
          ref={input}
          type="file"
          multiple
          hidden
          data-testid="import-map"
          accept={MAP_TYPES.join(',')}
          onChange={(e) => {
            const files = Array.from(e.target.files ?? []);
            e.target.value = '';
            if (files.length > 0) void importMaps(files);
          }}
        />
      </PanelHead>
      <LayerList shot={shot} />
      {layers.length === 0 && (
        <Box sx={{ padding: '14px', color: 'var(--mute)' }}>There is no depth yet. Add a layer: an estimate, a map from a file, or one you make.</Box>
      )}
      {layer && (knowsLayer(layer.kind) ? <LayerSettings key={layer.id} layer={layer} /> : <UnknownNote kind={layer.kind} out="map" />)}
      <CleanupSection />
    </>
  );
}

const BlendChoice = steady(function BlendChoice({ value, onChange }: { value: Blend; onChange: (blend: Blend) => void }) {
  return (
    <Select value={value} onChange={(e) => onChange(e.target.value)} inputProps={{ 'aria-label': 'Blend' }}>
      {blends.map((b) => (
        <MenuItem key={b} value={b}>
          {BLEND_LABELS[b]}
        </MenuItem>
      ))}
    </Select>
  );
});

function LayerSettings({ layer }: { layer: Layer }) {
  const shot = useShot()!;
  const tintOf = useTint();
  const definition = layerOf(layer.kind);
  const tool = toolOf(layer);
  const first = shot.settings.layers[0]?.id === layer.id;
  return (
    <Box inert={layer.locked} sx={layer.locked ? { opacity: 0.55 } : undefined}>
      <Section title="Layer">
        <DrivenRow
          address={{ place: 'layer', item: layer.id, name: 'opacity' }}
          param={opacityParam}
          value={100 * layer.opacity}
          onChange={(v, gesture) => changeLayer(layer.id, (l) => void (l.opacity = v / 100), gesture)}
        />
        {!definition.readsBelow && (
          <LabelRow label="Blend" help="How the layer meets what lies below it">
            <BlendChoice value={layer.blend} onChange={(blend) => changeLayer(layer.id, (l) => void (l.blend = blend))} />
          </LabelRow>
        )}
        {first && shot.settings.layers.length > 1 && layerMapNeed(layer, shot.plate) && (
          <Box sx={{ color: 'var(--mute)', fontSize: 11.5 }}>The lowest layer is always opaque.</Box>
        )}
      </Section>
      {!tool.ownRows && (
        <ParamRows
          params={definition.params}
          of={{ place: 'layer', item: layer.id }}
          values={layer.values}
          tintOf={tintOf}
          onChange={(name, value, gesture) => changeLayer(layer.id, (l) => void (l.values[name] = value), gesture)}
        />
      )}
      {tool.Panel && (
        <Suspense fallback={null}>
          <tool.Panel layer={layer} />
        </Suspense>
      )}
      {definition.keys?.(contentOf(definition, layer.content)) && <KeysSection layer={layer} />}
    </Box>
  );
}
