import { contentOf } from '../../../core/values/content';
import { relight, type RelightContent } from '../../../core/effects/surface/relight';
import { engine } from '../../../engine/pool/engine';
import { changeSettings } from '../../state/documentStore';
import type { EffectExtras } from './extras';
import { FileRow } from './FileRow';

const SHIPPED = { name: 'Harbour at dusk', file: '/surroundings/harbour-dusk.hdr' };

const setSurroundings = (id: string, surroundings: NonNullable<RelightContent['surroundings']>): void =>
  changeSettings((s) => {
    const item = s.effects.find((e) => e.id === id);
    if (item) item.content = { ...contentOf<RelightContent>(relight, item.content), surroundings };
  });

async function take(id: string, file: Blob, name: string, open: () => boolean): Promise<void> {
  const harmonics = await engine().surroundings(file, name);
  if (open()) setSurroundings(id, { name: name.slice(0, 200), harmonics: [...harmonics] });
}

/** Light from a picture of surroundings: a file, or the one that ships. */
export const relightExtras: EffectExtras = (_shot, values, item) => {
  if (values.light !== 'picture') return {};
  const { surroundings } = contentOf<RelightContent>(relight, item.content);
  return {
    sections: {
      Light: {
        after: (
          <FileRow
            now={surroundings?.name ?? 'white from all round'}
            label="Choose picture"
            accept=".hdr,.exr,image/*"
            others={[
              {
                label: SHIPPED.name,
                take: async () => take(item.id, await (await fetch(SHIPPED.file)).blob(), SHIPPED.name, () => true),
              },
            ]}
            onFile={(file, open) => take(item.id, file, file.name, open)}
          />
        ),
      },
    },
  };
};
