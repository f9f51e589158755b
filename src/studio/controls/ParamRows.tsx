import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import { Fragment, type ReactNode } from 'react';
import type { Param, Params } from '../../core/values/params';
import { NumberRow } from './NumberRow';
import { ChoiceRow, LabelRow, Section, ToggleRow } from './rows';

export type Value = number | boolean | string;

interface Props {
  readonly params: Params;
  readonly values: Readonly<Record<string, Value>>;
  readonly onChange: (name: string, value: Value, key: string) => void;
  /** colour for a distance */
  readonly tintOf: (metres: number) => string;
  /** more to show in a section, before or after its rows */
  readonly extras?: Readonly<Record<string, { readonly before?: ReactNode; readonly after?: ReactNode }>>;
}

/** The rows of a panel, from the definition of what they set. */
export function ParamRows({ params, values, onChange, tintOf, extras }: Props) {
  const sections = new Map<string, [string, Param][]>();
  for (const entry of Object.entries(params)) {
    const title = entry[1].section ?? '';
    sections.set(title, [...(sections.get(title) ?? []), entry]);
  }
  return (
    <>
      {[...sections].map(([title, rows]) => (
        <Section key={title} title={title}>
          {extras?.[title]?.before}
          {rows.map(([name, param]) => (
            <Fragment key={name}>
              <ParamRow
                param={param}
                value={values[name] ?? param.default}
                onChange={(value, key) => onChange(name, value, `${name}:${key}`)}
                tintOf={tintOf}
              />
            </Fragment>
          ))}
          {extras?.[title]?.after}
        </Section>
      ))}
    </>
  );
}

function ParamRow({
  param,
  value,
  onChange,
  tintOf,
}: {
  param: Param;
  value: Value;
  onChange: (value: Value, key: string) => void;
  tintOf: (metres: number) => string;
}) {
  switch (param.type) {
    case 'number':
      return <NumberRow param={param} value={value as number} onChange={onChange} tint={param.distance ? tintOf(value as number) : undefined} />;
    case 'toggle':
      return <ToggleRow label={param.label} help={param.help} value={value as boolean} onChange={(v) => onChange(v, 'toggle')} />;
    case 'choice':
      return (
        <ChoiceRow label={param.label} help={param.help} value={value as string} options={param.options} onChange={(v) => onChange(v, 'choice')} />
      );
    case 'colour':
      return (
        <LabelRow label={param.label} help={param.help}>
          <Box sx={{ display: 'flex', justifyContent: 'flex-end' }}>
            <InputBase
              type="color"
              value={value as string}
              onChange={(e) => onChange(e.target.value, 'colour')}
              slotProps={{ input: { 'aria-label': param.label } }}
              sx={{ width: 44 }}
            />
          </Box>
        </LabelRow>
      );
  }
}
