import { describeError } from '../../core/error';
import { engine } from '../../engine/pool/engine';
import { checkRoom } from '../../store/media';
import { notify } from '../notices/noticeStore';

/** So many numbered pictures of one name are a clip, though they lie in no folder. */
const A_CLIP = 8;

/** Where a file lies in what was dropped or chosen. */
const pathOf = (file: File): string => (file.webkitRelativePath || (file as { readonly path?: string }).path || file.name).replace(/^\.?\//, '');

/** Pictures in a folder, and numbered ones from `fewest` on, become one file each that holds them as a clip; all else stays as it is. */
export async function withSequences(files: readonly File[], errors: { text: string; hint: string }[], fewest = A_CLIP): Promise<readonly File[]> {
  const folders = new Map<string, File[]>();
  for (const file of files) {
    const folder = pathOf(file).split('/').slice(0, -1).join('/');
    folders.set(folder, [...(folders.get(folder) ?? []), file]);
  }
  if (folders.size === 1 && files.length < fewest && folders.has('')) return files;
  const { findSequence } = await import('../../media/sequenceNames');
  const out: File[] = [];
  for (const [folder, members] of folders) {
    const sequence = findSequence(members.map((f) => f.name));
    if (!sequence || (folder === '' && sequence.names.length < fewest)) {
      out.push(...members.filter((f) => folder === '' || !f.name.startsWith('.')));
      continue;
    }
    const byName = new Map(members.map((f) => [f.name, f]));
    const own = sequence.names.map((name) => byName.get(name)!);
    const name = folder === '' ? sequence.names[0]!.replace(/[\d._-]*\.[^.]+$/, '') || 'Frames' : folder.split('/').pop()!;
    try {
      await checkRoom(
        name,
        own.reduce((sum, f) => sum + f.size, 0),
      );
      const zip = await engine().packFrames(own.map((f) => ({ name: f.name, blob: f })));
      out.push(new File([zip], `${name}.zip`, { type: 'application/zip' }));
    } catch (error) {
      errors.push({ text: `${name} could not be brought in: ${describeError(error)}`, hint: '' });
      continue;
    }
    // strangers in a folder are told; beside numbered pictures other files are shots of their own
    const strangers = members.filter((f) => sequence.strangers.includes(f.name));
    if (folder === '') out.push(...strangers);
    else if (strangers.length > 0) {
      const some = strangers.slice(0, 3).map((f) => f.name);
      const more = strangers.length > 3 ? ` and ${strangers.length - 3} more` : '';
      notify({
        kind: 'note',
        text: strangers.length === 1 ? `A file of ${name} is not of the sequence.` : `${strangers.length} files of ${name} are not of the sequence.`,
        hint: `Left out: ${some.join(', ')}${more}.`,
      });
    }
  }
  return out;
}
