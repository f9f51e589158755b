import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import type { EffectItem, Shot } from '../../../core/document/schema';
import { effectGroups, endsSwapped, limitable, pickingsOf } from '../../../core/effects/definition';
import { effectOf, knowsEffect } from '../../../core/effects/registry';
import { dust } from '../../../core/effects/air/dust';
import { lensBlur } from '../../../core/effects/lens/lensBlur';
import { backdrop } from '../../../core/effects/surface/backdrop';
import { isolate } from '../../../core/effects/surface/isolate';
import { relight } from '../../../core/effects/surface/relight';
import { paramsAt, START } from '../../../core/values/moment';
import { ParamRows } from '../../controls/ParamRows';
import { PanelHead, Section } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { UnknownNote } from '../../controls/UnknownNote';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot, type Gesture } from '../../state/documentStore';
import { useShotNow } from '../../state/shotNow';
import { useViewPart } from '../../state/viewStore';
import { AddEffect, GROUP_LABELS } from './AddEffect';
import { backdropExtras, dustExtras, isolateExtras } from './cutExtras';
import { duplicateEffect } from './effectActions';
import { EffectBar } from './EffectBar';
import type { EffectExtras } from './extras';
import { lensBlurExtras } from './lensBlurExtras';
import { Looks } from './Looks';
import { PickButton } from './PickButton';
import { limitToPerson } from '../../state/persons';
import { RegionRow } from './RegionRow';
import { relightExtras } from './relightExtras';

const EXTRAS: Readonly<Record<string, EffectExtras>> = {
  [lensBlur.kind]: lensBlurExtras,
  [isolate.kind]: isolateExtras,
  [backdrop.kind]: backdropExtras,
  [dust.kind]: dustExtras,
  [relight.kind]: relightExtras,
};

/** What is shown beside the rows, with buttons that pick the effect's distances in the picture, each in the section of its distance. */
function withPicking(item: EffectItem, sections: ReturnType<EffectExtras>['sections']): ReturnType<EffectExtras>['sections'] {
  const definition = effectOf(item.kind);
  const out: Record<string, { readonly before?: ReactNode; readonly after?: ReactNode }> = { ...sections };
  for (const { param, label, prompt, by } of pickingsOf(definition, item.values)) {
    const title = definition.params[param]?.section;
    // two clicks set it already
    if (title === undefined || param === definition.pair?.to) continue;
    const there = out[title];
    const after = (
      <>
        {there?.after}
        <PickButton item={item} param={param} label={label} prompt={prompt} by={by} />
      </>
    );
    out[title] = { before: there?.before, after };
  }
  return out;
}

const change = (id: string, recipe: (e: EffectItem) => void, gesture?: Gesture): void =>
  changeSettings((s) => {
    const found = s.effects.find((e) => e.id === id);
    if (found) recipe(found);
  }, gesture);

/** Moves an effect among those of its group. */
const move = (id: string, to: number): void =>
  changeSettings((s) => {
    const moved = s.effects.find((e) => e.id === id)!;
    const inGroup = (e: EffectItem): boolean => effectOf(e.kind).group === effectOf(moved.kind).group;
    const order = s.effects.filter((e) => inGroup(e) && e.id !== id);
    order.splice(to, 0, moved);
    s.effects = s.effects.map((e) => (inGroup(e) ? order.shift()! : e));
  });

/** Effects in the order in which light meets them: Surface, Air, Lens, Frame. */
export function EffectsPanel() {
  const shot = useShot()!;
  const { selectedEffect } = useViewPart('selectedEffect');
  const list = shot.settings.effects;
  const item = list.find((e) => e.id === selectedEffect) ?? null;
  const known = item && knowsEffect(item.kind) ? item : null;
  return (
    <>
      <PanelHead title="Effects">
        <Looks />
        <AddEffect />
      </PanelHead>
      {list.length === 0 && <Box sx={{ padding: '14px', color: 'var(--mute)' }}>No effect yet. Add one, or choose a look.</Box>}
      {effectGroups.map((group) => (
        <Group key={group} group={group} list={list.filter((e) => effectOf(e.kind).group === group)} />
      ))}
      <EffectBar item={known} />
      {item && !known && <UnknownNote kind={item.kind} out="picture" />}
      {known && <EffectValues shot={shot} item={known} />}
    </>
  );
}

/** The effects of a group, in their order. */
function Group({ group, list }: { group: (typeof effectGroups)[number]; list: readonly EffectItem[] }) {
  const now = useShotNow()!;
  const { selectedEffect, set } = useViewPart('selectedEffect', 'set');
  if (list.length === 0) return null;
  return (
    <Box>
      <Box sx={{ padding: '7px 14px 3px', fontSize: 11, color: 'var(--mute)' }}>{GROUP_LABELS[group]}</Box>
      <StackList
        label={`${GROUP_LABELS[group]} effects, in order`}
        items={list.map((e) => {
          const definition = effectOf(e.kind);
          return {
            id: e.id,
            name: definition.label,
            on: e.on,
            summary: definition.summary(paramsAt(definition, { values: now.settings.effects.find((r) => r.id === e.id)!.values }, START)),
            unknown: !knowsEffect(e.kind),
          };
        })}
        selected={selectedEffect}
        onSelect={(id) => set({ selectedEffect: id })}
        onSwitch={(id, on) => change(id, (e) => void (e.on = on))}
        onDelete={(id) => changeSettings((s) => void (s.effects = s.effects.filter((e) => e.id !== id)))}
        onMove={move}
        onDuplicate={duplicateEffect}
      />
    </Box>
  );
}

/** What the effect in hand is set to. */
function EffectValues({ shot, item }: { shot: Shot; item: EffectItem }) {
  const now = useShotNow()!;
  const tintOf = useTint();
  const definition = effectOf(item.kind);
  const read = now.settings.effects.find((e) => e.id === item.id)!;
  const extras = EXTRAS[item.kind]?.(now, read.values, item);
  return (
    <>
      {endsSwapped(definition, read.values) && (
        <Box role="note" sx={{ padding: '8px 14px 0', color: 'var(--mute)' }}>
          From lies beyond To: they are taken the other way round.
        </Box>
      )}
      <ParamRows
        params={definition.params}
        of={{ place: 'effect', item: item.id }}
        values={item.values}
        tintOf={tintOf}
        extras={withPicking(item, extras?.sections)}
        onChange={(name, value, gesture) => change(item.id, (e) => void (e.values[name] = value), gesture)}
      />
      {limitable(definition) && (
        <RegionRow
          shot={shot}
          item={item}
          onPerson={() => void limitToPerson(item)}
          onChange={(region) =>
            change(item.id, (e) => {
              if (region) e.region = region;
              else delete e.region;
            })
          }
        />
      )}
      {extras?.middle && <Section title={extras.middle.title}>{extras.middle.content}</Section>}
      {extras?.foot && (
        <Section title={extras.foot.title} last>
          {extras.foot.content}
        </Section>
      )}
    </>
  );
}
