import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { moves } from '../src/core/camera/registry';
import { cleanups } from '../src/core/depth/cleanup/registry';
import { checks } from '../src/core/depth/checks/registry';
import { layers } from '../src/core/depth/layers/registry';
import { effects } from '../src/core/effects/registry';
import { cues } from '../src/core/estimate/cues/registry';
import { formatNumber, type Param } from '../src/core/values/params';
import { clipOutputs } from '../src/formats/outputs/clips';
import { formats } from '../src/formats/registry';

/** Writes docs/definitions.md from the registries; with --check only tells whether it is up to date. */
const row = (...cells: string[]): string => `| ${cells.join(' | ')} |`;
const table = (head: string[], rows: string[][]): string => [row(...head), row(...head.map(() => '---')), ...rows.map((r) => row(...r))].join('\n');

const usual = (p: Param): string => {
  if (p.type === 'number') return formatNumber(p, p.default);
  if (p.type === 'toggle') return p.default ? 'on' : 'off';
  return String(p.default);
};
const range = (p: Param): string => {
  if (p.type === 'number') return `${formatNumber(p, p.lowest)} … ${formatNumber(p, p.highest)}`;
  if (p.type === 'choice') return p.options.map((o) => o.value).join(', ');
  return p.type === 'toggle' ? 'on, off' : '#rrggbb';
};
const settings = (params: Readonly<Record<string, Param>>): string =>
  table(
    ['setting', 'shown as', 'range', 'usually', 'what it does'],
    Object.entries(params).map(([name, p]) => [`\`${name}\``, p.label, range(p), usual(p), p.help ?? '']),
  );

const text = `# What is defined

Made from the definitions by \`npm run build:docs\`; do not edit.

## Effects

${effects.map((e) => `### ${e.label} (\`${e.kind}\`, group ${e.group})\n\n${settings(e.params)}`).join('\n\n')}

## Camera moves

${moves.map((m) => `### ${m.label} (\`${m.kind}\`)\n\n${m.help}.\n\n${settings(m.params)}`).join('\n\n')}

## Depth layers

${layers.map((l) => `### ${l.label} (\`${l.kind}\`)\n\n${l.help}.\n\n${settings(l.params)}`).join('\n\n')}

## Clean-up

${cleanups.map((c) => `### ${c.label} (\`${c.kind}\`)\n\n${c.help}.\n\n${settings(c.params)}`).join('\n\n')}

## Checks

${table(
  ['check', 'shows'],
  checks.map((c) => [c.label, c.help]),
)}

## Outputs frame by frame

${table(
  ['output', 'of', 'what it is'],
  clipOutputs.map((c) => [c.label, c.of, c.note]),
)}

## Cues of the estimate

${table(
  ['cue', 'source'],
  cues.map((c) => [c.kind, c.source]),
)}

## Formats

${table(
  ['format', 'endings', 'decoded by', 'used for'],
  formats.map((f) => [f.label, f.extensions.join(', '), f.decodedBy === 'own' ? 'Ombrage' : 'the platform', f.use]),
)}
`;

const file = 'docs/definitions.md';
if (!process.argv.includes('--check')) writeFileSync(file, text);
else if (!existsSync(file) || readFileSync(file, 'utf8') !== text) {
  console.error(`${file} is not what the definitions say. Run npm run build:docs.`);
  process.exitCode = 1;
}
