import type { Picture } from '../../core/picture';
import { eyesOf, finishedPicture } from '../../core/shot/chain';
import { percent, type Params } from '../../core/values/params';
import type { FormatDefinition } from '../definition';
import { storedZip } from '../bytes/zip';
import { jpeg } from '../jpeg/jpeg';
import { png } from '../png/png';
import { webp } from '../webp/webp';
import { defineOutput, type OutputDefinition } from './definition';

const quality = { quality: percent({ label: 'Quality', min: 30, max: 100, lowest: 1, default: 92 }) };

interface Still {
  readonly kind: string;
  readonly label: string;
  readonly note: string;
  readonly format: FormatDefinition;
  readonly bits: 8 | 16;
  readonly params: Params;
}

/** The finished picture in a format that is written as such. */
const still = ({ kind, label, note, format, bits, params }: Still): OutputDefinition =>
  defineOutput({
    kind,
    of: 'picture',
    label,
    note,
    extension: format.extensions[0]!,
    mime: format.mime,
    params,
    async write({ request, inputs, params: p, encoders }) {
      const { value } = await finishedPicture(request, inputs);
      inputs.run.checkpoint(0.95);
      return format.writePicture!(value, { bits, quality: Number(p.quality ?? 100) / 100, encoders });
    },
  });

/** What each eye sees, as a file of its own. */
const eyes = defineOutput({
  kind: 'picture-eyes',
  of: 'picture',
  label: 'Two eyes',
  note: 'What the left and the right eye see, as two PNGs in a zip; as far apart as Camera says.',
  extension: 'zip',
  mime: 'application/zip',
  params: {},
  async write({ request, inputs, encoders }) {
    const [left, right] = await eyesOf(request, inputs);
    const png8 = async (picture: Picture): Promise<Uint8Array> => png.writePicture!(picture, { bits: 8, quality: 1, encoders });
    const file = async (name: string, bytes: Promise<Uint8Array>) => ({ name, blob: new Blob([(await bytes) as Uint8Array<ArrayBuffer>]) });
    const zip = await storedZip([await file('left.png', png8(left.picture.value)), await file('right.png', png8(right.picture.value))]);
    return new Uint8Array(await zip.arrayBuffer());
  },
});

export const pictures: readonly OutputDefinition[] = [
  still({ kind: 'picture-png', label: 'PNG 8', note: 'Lossless, sRGB, 8 bits a channel.', format: png, bits: 8, params: {} }),
  still({ kind: 'picture-png16', label: 'PNG 16', note: 'Lossless, sRGB, 16 bits a channel.', format: png, bits: 16, params: {} }),
  still({ kind: 'picture-jpeg', label: 'JPEG', note: 'Small, sRGB, no transparency.', format: jpeg, bits: 8, params: quality }),
  still({ kind: 'picture-webp', label: 'WebP', note: 'Smaller still, sRGB.', format: webp, bits: 8, params: quality }),
  eyes,
];
