import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { memo, useState } from 'react';
import { newEffect } from '../../../core/document/defaults';
import type { EffectItem } from '../../../core/document/schema';
import { effectGroups, type EffectGroup } from '../../../core/effects/definition';
import { effectOf, effects, knowsEffect } from '../../../core/effects/registry';
import { lensBlur } from '../../../core/effects/lens/lensBlur';
import { valuesSchema } from '../../../core/values/params';
import { ParamRows } from '../../controls/ParamRows';
import { PanelHead, Section } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { UnknownNote } from '../../controls/UnknownNote';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot } from '../../state/documentStore';
import { isFull } from '../../state/room';
import { useViewPart } from '../../state/viewStore';
import type { EffectExtras } from './extras';
import { lensBlurExtras } from './lensBlurExtras';

const GROUPS: Record<EffectGroup, string> = { surface: 'Surface', air: 'Air', lens: 'Lens', frame: 'Frame' };

const EXTRAS: Readonly<Record<string, EffectExtras>> = { [lensBlur.kind]: lensBlurExtras };

/** Effects in the order in which light meets them: Surface, Air, Lens, Frame. */
export function EffectsPanel() {
  const shot = useShot()!;
  const { selectedEffect, set } = useViewPart('selectedEffect', 'set');
  const tintOf = useTint();
  const list = shot.settings.effects;
  const item = list.find((e) => e.id === selectedEffect);
  const change = (id: string, recipe: (e: EffectItem) => void, key?: string): void =>
    changeSettings(
      (s) => {
        const found = s.effects.find((e) => e.id === id);
        if (found) recipe(found);
      },
      key && `effect:${id}:${key}`,
    );
  const groups = effectGroups.filter((g) => list.some((e) => effectOf(e.kind).group === g));
  const extras = item && EXTRAS[item.kind]?.(shot, item.values);
  /** moves an effect among those of its group */
  const move = (id: string, to: number): void =>
    changeSettings((s) => {
      const moved = s.effects.find((e) => e.id === id)!;
      const inGroup = (e: EffectItem): boolean => effectOf(e.kind).group === effectOf(moved.kind).group;
      const order = s.effects.filter((e) => inGroup(e) && e.id !== id);
      order.splice(to, 0, moved);
      s.effects = s.effects.map((e) => (inGroup(e) ? order.shift()! : e));
    });
  return (
    <>
      <PanelHead title="Effects">
        <AddEffect />
      </PanelHead>
      {list.length === 0 && <Box sx={{ padding: '14px', color: 'var(--mute)' }}>No effect yet. Add lens blur to focus on a distance.</Box>}
      {groups.map((group) => (
        <Box key={group}>
          <Box sx={{ padding: '7px 14px 3px', fontSize: 11, color: 'var(--mute)' }}>{GROUPS[group]}</Box>
          <StackList
            label={`${GROUPS[group]} effects, in order`}
            items={list
              .filter((e) => effectOf(e.kind).group === group)
              .map((e) => {
                const definition = effectOf(e.kind);
                return {
                  id: e.id,
                  name: definition.label,
                  on: e.on,
                  summary: definition.summary(valuesSchema(definition.params).parse(e.values)),
                  unknown: !knowsEffect(e.kind),
                };
              })}
            selected={selectedEffect}
            onSelect={(id) => set({ selectedEffect: id })}
            onSwitch={(id, on) => change(id, (e) => void (e.on = on))}
            onDelete={(id) => changeSettings((s) => void (s.effects = s.effects.filter((e) => e.id !== id)))}
            onMove={move}
          />
        </Box>
      ))}
      {item && !knowsEffect(item.kind) && <UnknownNote kind={item.kind} out="picture" />}
      {item && knowsEffect(item.kind) && (
        <>
          <ParamRows
            params={effectOf(item.kind).params}
            values={item.values}
            tintOf={tintOf}
            extras={extras?.sections}
            onChange={(name, value, key) => change(item.id, (e) => void (e.values[name] = value), key)}
          />
          {extras?.foot && (
            <Section title={extras.foot.title} last>
              {extras.foot.content}
            </Section>
          )}
        </>
      )}
    </>
  );
}

const AddEffect = memo(function AddEffect() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { set } = useViewPart('set');
  return (
    <>
      <Button sx={{ height: 24, padding: '0 8px' }} aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Add effect
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {effectGroups.flatMap((group) =>
          effects
            .filter((e) => e.group === group)
            .map((e) => (
              <MenuItem
                key={e.kind}
                onClick={() => {
                  setAnchor(null);
                  if (isFull('effects')) return;
                  const item = newEffect(e.kind);
                  changeSettings((s) => void s.effects.push(item));
                  set({ selectedEffect: item.id });
                }}
              >
                <Box sx={{ flex: 1 }}>{e.label}</Box>
                <Box sx={{ color: 'var(--mute)', marginLeft: '18px' }}>{GROUPS[group]}</Box>
              </MenuItem>
            )),
        )}
      </Menu>
    </>
  );
});
