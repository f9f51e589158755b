import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import { useMemo, type ReactNode } from 'react';
import type { DrivenPlace } from '../../core/document/driven';
import { hasSay, type Param, type Params } from '../../core/values/params';
import { keyGesture, useShot, type Gesture } from '../state/documentStore';
import { DrivenRow } from './DrivenRow';
import { NumberRow } from './NumberRow';
import { ChoiceRow, LabelRow, Section, ToggleRow } from './rows';

export type Value = number | boolean | string;

interface Props {
  readonly params: Params;
  readonly values: Readonly<Record<string, Value>>;
  readonly onChange: (name: string, value: Value, gesture?: Gesture) => void;
  /** of what the numbers are: each then has a mark that opens its drive */
  readonly of?: { readonly place: DrivenPlace; readonly item: string };
  /** colour for a distance */
  readonly tintOf: (metres: number) => string;
  /** more to show in a section, before or after its rows */
  readonly extras?: Readonly<Record<string, { readonly before?: ReactNode; readonly after?: ReactNode }>>;
}

/** The rows of a panel, from the definition of what they set. */
export function ParamRows({ params, values, onChange, of, tintOf, extras }: Props) {
  const clip = useShot()?.plate.clip !== undefined;
  const sections = useMemo(() => {
    const found = new Map<string, [string, Param][]>();
    for (const entry of Object.entries(params)) {
      const title = entry[1].section ?? '';
      found.set(title, [...(found.get(title) ?? []), entry]);
    }
    return found;
  }, [params]);
  return (
    <>
      {[...sections]
        .map(([title, rows]) => [title, rows.filter(([, param]) => (clip || !param.ofClips) && hasSay(param, values, params))] as const)
        .filter(([title, rows]) => rows.length > 0 || extras?.[title])
        .map(([title, rows]) => (
          <Section key={title} title={title}>
            {extras?.[title]?.before}
            {rows.map(([name, param]) => {
              const value = values[name] ?? param.default;
              const tint = param.type === 'number' && param.distance ? tintOf(value as number) : undefined;
              return <ParamRow key={name} name={name} of={of} param={param} value={value} tint={tint} onChange={onChange} />;
            })}
            {extras?.[title]?.after}
          </Section>
        ))}
    </>
  );
}

interface RowProps {
  readonly name: string;
  readonly of: Props['of'];
  readonly param: Param;
  readonly value: Value;
  readonly tint: string | undefined;
  readonly onChange: Props['onChange'];
}

function ParamRow({ name, of, param, value, tint, onChange }: RowProps) {
  const set = (v: Value, gesture?: Gesture): void => onChange(name, v, gesture);
  switch (param.type) {
    case 'number':
      return of && !param.ofClips ? (
        <DrivenRow address={{ ...of, name }} param={param} value={value as number} onChange={set} tint={tint} />
      ) : (
        <NumberRow param={param} value={value as number} onChange={set} tint={tint} />
      );
    case 'toggle':
      return <ToggleRow label={param.label} help={param.help} value={value as boolean} onChange={(v) => set(v)} />;
    case 'choice':
      return <ChoiceRow label={param.label} help={param.help} value={value as string} options={param.options} onChange={(v) => set(v)} />;
    case 'colour':
      return (
        <LabelRow label={param.label} help={param.help}>
          <Box sx={{ display: 'flex', justifyContent: 'flex-end' }}>
            <InputBase
              type="color"
              value={value}
              onChange={(e) => set(e.target.value, keyGesture(name))}
              slotProps={{ input: { 'aria-label': param.label } }}
              sx={{ width: 44 }}
            />
          </Box>
        </LabelRow>
      );
  }
}
