import { effects } from '../src/core/effects/registry';
import { formatNumber, type Param } from '../src/core/values/params';

const range = (p: Param): string => {
  if (p.type === 'number') return `${p.lowest} … ${p.highest}${p.unit ? ` ${p.unit}` : ''}, usually ${formatNumber(p, p.default)}`;
  if (p.type === 'toggle') return `on or off, usually ${p.default ? 'on' : 'off'}`;
  if (p.type === 'choice') return `${p.options.map((o) => o.value).join(', ')}; usually ${p.default}`;
  return `#rrggbb, usually ${p.default}`;
};

const told = ({ kind, group, label, params }: (typeof effects)[number]): string => {
  const rows = Object.entries(params).map(([name, p]) => `    ${name.padEnd(12)} ${p.label}: ${range(p)}${p.help ? `. ${p.help}` : ''}`);
  return `\n  ${kind} (${group}): ${label}\n${rows.join('\n')}`;
};

/** Every effect with its settings, for the help. */
export const effectHelp = (): string => `\nEffects and their settings:${effects.map(told).join('\n')}`;
