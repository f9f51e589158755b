import { layerOf } from '../../../core/depth/layers/registry';
import type { EffectItem, Region, Shot } from '../../../core/document/schema';
import { ChoiceRow, Section } from '../../controls/rows';

const EVERYWHERE = 'everywhere';
const wordOf = (region: Region | undefined): string => (region ? `${region.outside ? 'but' : 'in'} ${region.layer}` : EVERYWHERE);

interface Props {
  readonly shot: Shot;
  readonly item: EffectItem;
  readonly onChange: (region: Region | undefined) => void;
}

/** The part of the picture that an effect is limited to: what a layer of depth covers. Nothing is shown where no layer marks a part. */
export function RegionRow({ shot, item, onChange }: Props) {
  const { region } = item;
  const marking = shot.settings.layers.filter((l) => layerOf(l.kind).limits);
  if (marking.length === 0 && !region) return null;
  const choices: readonly { readonly region: Region | undefined; readonly label: string }[] = [
    { region: undefined, label: 'Everywhere' },
    ...marking.flatMap(({ id, name }) => [
      { region: { layer: id, outside: false }, label: `In ${name}` },
      { region: { layer: id, outside: true }, label: `All but ${name}` },
    ]),
    ...(region && !marking.some((l) => l.id === region.layer) ? [{ region, label: 'A layer that is gone' }] : []),
  ];
  return (
    <Section title="Part of the picture">
      <ChoiceRow
        label="Acts"
        help="Shapes, strokes, flats and head forms mark parts of the picture, even while their layer is off"
        value={wordOf(region)}
        options={choices.map((c) => ({ value: wordOf(c.region), label: c.label }))}
        onChange={(word) => onChange(choices.find((c) => wordOf(c.region) === word)?.region)}
      />
    </Section>
  );
}
