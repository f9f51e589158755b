import { layerOf } from '../../../core/depth/layers/registry';
import type { EffectItem, Region, Shot } from '../../../core/document/schema';
import { ChoiceRow, Section } from '../../controls/rows';

const EVERYWHERE = 'everywhere';
/** Looks for one, and marks them. */
const PERSON = 'person';
const wordOf = (region: Region | undefined): string => (region ? `${region.outside ? 'but' : 'in'} ${region.layer}` : EVERYWHERE);

interface Props {
  readonly shot: Shot;
  readonly item: EffectItem;
  readonly onChange: (region: Region | undefined) => void;
  readonly onPerson: () => void;
}

/** The part of the picture that an effect is limited to: what a layer of depth covers, or a person who is looked for. */
export function RegionRow({ shot, item, onChange, onPerson }: Props) {
  const { region } = item;
  const marking = shot.settings.layers.filter((l) => layerOf(l.kind).limits);
  const choices: readonly { readonly value: string; readonly label: string; readonly region?: Region | undefined }[] = [
    { value: EVERYWHERE, label: 'Everywhere' },
    ...marking.flatMap(({ id, name }) =>
      [false, true].map((outside) => {
        const within = { layer: id, outside };
        return { value: wordOf(within), label: outside ? `All but ${name}` : `In ${name}`, region: within };
      }),
    ),
    ...(region && !marking.some((l) => l.id === region.layer) ? [{ value: wordOf(region), label: 'A layer that is gone', region }] : []),
    { value: PERSON, label: 'A person…' },
  ];
  return (
    <Section title="Part of the picture">
      <ChoiceRow
        label="Acts"
        help="Persons, shapes, strokes, flats and head forms mark parts of the picture, even while their layer is off"
        value={wordOf(region)}
        options={choices}
        onChange={(word) => (word === PERSON ? onPerson() : onChange(choices.find((c) => c.value === word)?.region))}
      />
    </Section>
  );
}
