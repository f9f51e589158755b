import type { Params } from '../../../core/values/params';
import type { OutputSpec } from '../../../engine/messages/protocol';
import { NumberRow } from '../../controls/NumberRow';

interface Props {
  readonly params: Params;
  readonly values: OutputSpec['values'];
  readonly onChange: (values: OutputSpec['values']) => void;
}

/** The numbers that an output is set by. */
export const OutputNumbers = ({ params, values, onChange }: Props) =>
  Object.entries(params).map(
    ([name, param]) =>
      param.type === 'number' && (
        <NumberRow
          key={name}
          param={param}
          value={Number(values[name] ?? param.default)}
          onChange={(value) => onChange({ ...values, [name]: value })}
        />
      ),
  );
