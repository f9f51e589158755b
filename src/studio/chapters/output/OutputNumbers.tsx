import Box from '@mui/material/Box';
import type { Params } from '../../../core/values/params';
import type { OutputSpec } from '../../../engine/messages/protocol';
import { ToggleRow } from '../../controls/rows';
import { NumberRow } from '../../controls/NumberRow';
import { useTint } from '../../controls/useTint';

interface Props {
  readonly params: Params;
  readonly values: OutputSpec['values'];
  readonly onChange: (values: OutputSpec['values']) => void;
}

/** The numbers and switches that an output is set by. */
export function OutputNumbers({ params, values, onChange }: Props) {
  const tintOf = useTint();
  const rows = Object.entries(params).map(([name, param]) => {
    const change = (value: number | boolean): void => onChange({ ...values, [name]: value });
    if (param.type === 'number') {
      const value = Number(values[name] ?? param.default);
      return <NumberRow key={name} param={param} value={value} {...(param.distance && { tint: tintOf(value) })} onChange={change} />;
    }
    if (param.type !== 'toggle') return null;
    return <ToggleRow key={name} label={param.label} help={param.help ?? ''} value={Boolean(values[name] ?? param.default)} onChange={change} />;
  });
  return rows.length > 0 ? <Box sx={{ marginTop: '6px' }}>{rows}</Box> : null;
}
