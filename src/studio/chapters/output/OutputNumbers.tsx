import type { Params } from '../../../core/values/params';
import type { OutputSpec } from '../../../engine/messages/protocol';
import { ToggleRow } from '../../controls/rows';
import { NumberRow } from '../../controls/NumberRow';

interface Props {
  readonly params: Params;
  readonly values: OutputSpec['values'];
  readonly onChange: (values: OutputSpec['values']) => void;
}

/** The numbers and switches that an output is set by. */
export const OutputNumbers = ({ params, values, onChange }: Props) =>
  Object.entries(params).map(([name, param]) => {
    const change = (value: number | boolean): void => onChange({ ...values, [name]: value });
    if (param.type === 'number') return <NumberRow key={name} param={param} value={Number(values[name] ?? param.default)} onChange={change} />;
    if (param.type !== 'toggle') return null;
    return <ToggleRow key={name} label={param.label} help={param.help ?? ''} value={Boolean(values[name] ?? param.default)} onChange={change} />;
  });
