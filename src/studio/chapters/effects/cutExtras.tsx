import type { FileRef } from '../../../core/need/fileRef';
import { engine } from '../../../engine/pool/engine';
import { database } from '../../../store/database';
import { getMedia } from '../../../store/media';
import { notifyError } from '../../notices/noticeStore';
import { changeSettings, useDocument } from '../../state/documentStore';
import { readPicture } from '../../state/files';
import type { EffectExtras } from './extras';
import { FileRow } from './FileRow';
import { MatteView } from './MatteView';
import { PairButton } from './PairButton';

const setMedia = (id: string, media: FileRef): void =>
  changeSettings((s) => {
    const item = s.effects.find((e) => e.id === id);
    if (item) item.media = media;
  });

/** The picture behind: a file, or what another shot of the project was made from. */
function StillRow({ id, media }: { id: string; media: FileRef | undefined }) {
  const shots = useDocument((s) => s.project?.shots);
  const others = (shots ?? []).map(({ name: title, plate }) => ({
    label: `From ${title}`,
    take: async () => {
      const { raster } = await engine().decode(await getMedia(database(), plate), plate.name, false);
      engine().hold('raster', plate.sha256, raster).catch(notifyError);
      const { sha256, name, width, height, clip } = plate;
      if (clip)
        engine()
          .hold('clip', sha256, { blob: await getMedia(database(), plate), name })
          .catch(notifyError);
      setMedia(id, { sha256, name, width, height, ...(clip && { clip }) });
    },
  }));
  return (
    <FileRow
      now={media?.name ?? 'no picture yet'}
      label="Choose picture"
      accept="image/*,video/*,.mkv"
      others={others}
      onFile={async (file, open) => {
        const read = await readPicture(file);
        if (open()) setMedia(id, read);
      }}
    />
  );
}

export const isolateExtras: EffectExtras = (_shot, _values, item) => ({
  sections: { Keep: { before: <MatteView />, after: <PairButton item={item} /> } },
});

export const dustExtras: EffectExtras = (_shot, _values, item) => ({ sections: { Specks: { after: <PairButton item={item} /> } } });

export const backdropExtras: EffectExtras = (_shot, values, item) => ({
  sections: {
    Backdrop: { before: <MatteView /> },
    ...(values.what === 'picture' && { Picture: { before: <StillRow id={item.id} media={item.media} /> } }),
  },
});
